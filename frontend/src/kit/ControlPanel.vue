<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import BoundSlider from '@/shared/BoundSlider.vue'
import ChoiceList from '@/shared/ChoiceList.vue'
import { CONTROL_WORDS, valueWords, type Spans } from './controls'

const props = defineProps<{
  spans: Spans
  settings: Record<string, number>
  canRefocus: boolean
  lenses: { id: string; label: string; facing?: string | null }[]
  lens: string | null
}>()
const emit = defineEmits<{
  set: [settings: Record<string, number>]
  refocus: []
  lens: [id: string]
}>()
const sliders = computed(() => Object.keys(props.spans).filter((name) => name !== 'torch'))
const lensWords = (one: { label: string; facing?: string | null }, index: number) =>
  `${one.facing === 'front' ? 'Front lens' : one.facing === 'rear' ? 'Rear lens' : `Lens ${index + 1}`}${one.label ? ` · ${one.label}` : ''}`
</script>

<template>
  <div class="controls">
    <ChoiceList
      v-if="lenses.length > 1"
      small
      label="Lens"
      :value="lens ?? ''"
      :options="lenses.map((one, index) => ({ value: one.id, label: lensWords(one, index) }))"
      @change="(id) => emit('lens', id)"
    />
    <label v-for="name in sliders" :key="name">
      <span>{{ CONTROL_WORDS[name] ?? name }}</span>
      <BoundSlider
        :label="CONTROL_WORDS[name] ?? name"
        :value="settings[name] ?? spans[name]!.min"
        :min="spans[name]!.min"
        :max="spans[name]!.max"
        :step="spans[name]!.step || (spans[name]!.max - spans[name]!.min) / 100"
        @change="(value) => emit('set', { [name]: value })"
      />
      <span class="num">{{ valueWords(name, settings[name] ?? spans[name]!.min, spans[name]!) }}</span>
    </label>
    <div class="presses">
      <Button v-if="canRefocus" size="small" @click="emit('refocus')">Refocus</Button>
      <Button
        v-if="spans.torch"
        size="small"
        :aria-pressed="settings.torch === 1"
        @click="emit('set', { torch: settings.torch ? 0 : 1 })"
        >{{ settings.torch ? 'Light off' : 'Light on' }}</Button
      >
    </div>
  </div>
</template>

<style scoped>
.controls {
  display: grid;
  gap: 4px;
}
label {
  display: grid;
  grid-template-columns: 76px 1fr 58px;
  gap: 10px;
  align-items: center;
  font-size: 13.5px;
}
label .num {
  text-align: right;
}
.presses {
  display: flex;
  gap: 8px;
}
</style>
