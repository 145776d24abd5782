<script setup lang="ts">
/** One of several, by the browser's own list: it has its label, its keys and its place on every screen by itself. */
defineProps<{ label: string; value: string; options: { value: string; label: string }[]; small?: boolean }>()
defineEmits<{ change: [value: string] }>()
</script>

<template>
  <select
    :class="{ small }"
    :aria-label="label"
    :value="value"
    @change="$emit('change', ($event.target as HTMLSelectElement).value)"
  >
    <option v-for="option in options" :key="option.value" :value="option.value">{{ option.label }}</option>
  </select>
</template>

<style scoped>
select {
  appearance: none;
  width: 100%;
  min-height: 36px;
  padding: 0 32px 0 11px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet)
    url("data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='12' height='8' fill='none' stroke='%23626878' stroke-width='1.6'%3E%3Cpath d='m1 1 5 5 5-5'/%3E%3C/svg%3E")
    no-repeat right 12px center;
  color: var(--ink);
  font: inherit;
  text-overflow: ellipsis;
  cursor: pointer;
}
select:hover {
  border-color: var(--lapis);
}
.small {
  min-height: 30px;
  font-size: 14px;
}
</style>
