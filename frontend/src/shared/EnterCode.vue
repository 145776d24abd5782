<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'

/** What another device shows first: the code of its invitation. In the slots: more to fill in, and what the device will do. */
defineProps<{ title: string; press: string; refused: string | null }>()
const emit = defineEmits<{ come: [code: string] }>()
const code = defineModel<string>({ default: '' })
const fits = () => code.value.replace(/[^a-z0-9]/gi, '').length === 6
function come() {
  if (fits()) emit('come', code.value)
}
</script>

<template>
  <form class="card" @submit.prevent="come">
    <h1>{{ title }}</h1>
    <p v-if="refused" class="refused" role="alert">{{ refused }}</p>
    <label
      >The six characters on the teacher’s screen
      <Input
        v-model:value="code"
        class="code"
        size="large"
        :maxlength="8"
        autocomplete="off"
        autocapitalize="characters"
        spellcheck="false"
    /></label>
    <slot name="more" />
    <Button type="primary" size="large" html-type="submit" :disabled="!fits()">{{ press }}</Button>
    <p class="soft"><slot /></p>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 16px;
  padding: 22px 20px;
}
label,
:slotted(label) {
  display: grid;
  gap: 8px;
  font-weight: 600;
}
form > button {
  justify-content: center;
}
.code {
  font: 700 30px var(--figures);
  letter-spacing: 0.2em;
  text-transform: uppercase;
  text-align: center;
}
.refused {
  padding: 10px 14px;
  border-radius: 10px;
  background: var(--carnelian-tint);
  color: var(--carnelian);
}
</style>
