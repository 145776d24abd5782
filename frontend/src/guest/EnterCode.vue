<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { ref } from 'vue'

defineProps<{ refused: string | null }>()
const emit = defineEmits<{ come: [code: string] }>()
const code = ref('')
const fits = () => code.value.replace(/[^a-z0-9]/gi, '').length === 6
function come() {
  if (fits()) emit('come', code.value)
}
</script>

<template>
  <form class="card" @submit.prevent="come">
    <h1>Bring this camera into the lesson</h1>
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
    <Button type="primary" size="large" html-type="submit" :disabled="!fits()">Bring it in</Button>
    <p class="soft">
      Your picture goes to the teacher’s computer and may be shown to learners. The microphone stays off until
      it is switched on. The browser may warn once: choose Advanced or Show details, then continue.
    </p>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 16px;
  padding: 22px 18px;
}
label {
  display: grid;
  gap: 8px;
  font-weight: 600;
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
