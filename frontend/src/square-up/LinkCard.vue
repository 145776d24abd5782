<script setup lang="ts">
import { Switch } from 'ant-design-vue'

defineProps<{ name: string; on: boolean; says: string; open: boolean; last?: boolean }>()
defineEmits<{ switch: [on: boolean]; open: [] }>()
</script>

<template>
  <section class="link card" :class="{ off: !on, last, open }" :aria-label="name">
    <div class="top">
      <button class="name" :aria-expanded="open" @click="$emit('open')">{{ name }}</button>
      <Switch
        size="small"
        :checked="on"
        :aria-label="`${name} on`"
        @change="(value) => $emit('switch', value === true)"
      />
    </div>
    <p class="soft" @click="$emit('open')">{{ on ? says : 'Off' }}</p>
    <div v-if="open" class="set"><slot /></div>
  </section>
</template>

<style scoped>
.link {
  position: relative;
  padding: 7px 12px 8px;
  margin-bottom: 11px;
}
.open {
  border: 2px solid var(--lapis);
  padding: 6px 11px 9px;
}
.link:not(.last)::after {
  content: '';
  position: absolute;
  left: 26px;
  bottom: -12px;
  height: 11px;
  width: 3px;
  background: var(--lapis);
}
.open:not(.last)::after {
  bottom: -13px;
  left: 25px;
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
.name {
  border: 0;
  padding: 0;
  background: none;
  font: inherit;
  font-weight: 650;
  color: inherit;
  cursor: pointer;
  flex: 1;
  text-align: left;
  min-height: 26px;
}
p {
  font-size: 13.5px;
  cursor: pointer;
}
.set {
  margin-top: 6px;
  display: grid;
  gap: 6px;
}
</style>
