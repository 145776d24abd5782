<script setup lang="ts">
import { clamp } from '@vueuse/core'
import { Slider } from 'ant-design-vue'

defineProps<{ label: string; value: number; min: number; max: number; step: number }>()
const emit = defineEmits<{ change: [value: number]; settled: [] }>()
</script>

<template>
  <!-- Given a value outside its range, the slider would say by itself that it was moved to the end; it also keeps where it stood in another range. -->
  <Slider
    :key="`${min} to ${max}`"
    :value="clamp(value, min, max)"
    :min="min"
    :max="max"
    :step="step"
    :tooltip-open="false"
    :aria-label-for-handle="label"
    @change="(next) => emit('change', next as number)"
    @after-change="emit('settled')"
  />
</template>
