<script setup lang="ts">
import { Switch } from 'ant-design-vue'

defineProps<{ name: string; on: boolean; says: string; last?: boolean }>()
defineEmits<{ switch: [on: boolean] }>()
</script>

<template>
  <section class="link card" :class="{ off: !on, last }" :aria-label="name">
    <div class="top">
      <h2>{{ name }}</h2>
      <Switch
        size="small"
        :checked="on"
        :aria-label="`${name} on`"
        @change="(value) => $emit('switch', value === true)"
      />
    </div>
    <p class="soft">{{ on ? says : 'Left as it comes' }}</p>
    <div v-if="on" class="set"><slot /></div>
  </section>
</template>

<style scoped>
.link {
  position: relative;
  padding: 9px 12px 10px;
  margin-bottom: 12px;
}
.link:not(.last)::after {
  content: '';
  position: absolute;
  left: 26px;
  bottom: -13px;
  height: 12px;
  width: 3px;
  background: var(--lapis);
}
.off {
  background: none;
}
.off::after {
  opacity: 0.35;
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
p {
  font-size: 13.5px;
}
.set {
  margin-top: 6px;
  display: grid;
  gap: 4px;
}
</style>
