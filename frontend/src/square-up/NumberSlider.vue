<script setup lang="ts">
import { Slider } from 'ant-design-vue'

defineProps<{ label: string; value: number; min: number; max: number; step?: number; shown: string }>()
const emit = defineEmits<{ change: [value: number, settled: boolean] }>()
</script>

<template>
  <div class="row">
    <span>{{ label }}</span>
    <Slider
      :value="value"
      :min="min"
      :max="max"
      :step="step ?? 1"
      :tooltip-open="false"
      :aria-label-for-handle="label"
      @change="(next) => emit('change', next as number, false)"
      @after-change="(next) => emit('change', next as number, true)"
    />
    <span class="num">{{ shown }}</span>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 78px 1fr 52px;
  align-items: center;
  gap: 6px;
  font-size: 13.5px;
}
.row :deep(.ant-slider) {
  margin: 6px 4px;
}
.num {
  text-align: right;
}
</style>
