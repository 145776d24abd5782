<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import BoundSlider from './BoundSlider.vue'

const ANSWERED_WITHIN_MS = 1500 // then what it was moved to is not what is in force

const props = defineProps<{
  label: string
  value: number
  min: number
  max: number
  step?: number
  shown: string
}>()
const emit = defineEmits<{ change: [value: number, settled: boolean] }>()
let moved: number | null = null // by key the slider says twice that it has settled, the second time on the old value
const asked = ref<number | null>(null) // until the answer comes, so that the next press counts from it
const { start } = useTimeoutFn(() => (asked.value = null), ANSWERED_WITHIN_MS, { immediate: false })
watch(
  () => props.value,
  (value) => value === asked.value && (asked.value = null), // not by the answer to a press before
)

function move(next: number) {
  moved = next
  asked.value = next
  start()
  emit('change', next, false)
}
function settle() {
  if (moved !== null) emit('change', moved, true)
  moved = null
}
</script>

<template>
  <div class="number-slider">
    <span>{{ label }}</span>
    <BoundSlider
      :label="label"
      :value="asked ?? value"
      :min="min"
      :max="max"
      :step="step ?? 1"
      @change="move"
      @settled="settle"
    />
    <span class="num">{{ shown }}</span>
  </div>
</template>

<style scoped>
.number-slider {
  display: grid;
  grid-template-columns: 78px 1fr 52px;
  align-items: center;
  gap: 6px;
  font-size: 13.5px;
}
.number-slider :deep(.ant-slider) {
  margin: 6px 4px;
}
.number-slider :deep(.ant-slider-rail) {
  background: var(--line);
}
.num {
  text-align: right;
}
</style>
