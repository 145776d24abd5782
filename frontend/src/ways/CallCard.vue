<script setup lang="ts">
import { InputNumber } from 'ant-design-vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useWays, type CallKind } from './ways'

const props = defineProps<{ view: Schemas['WaysView'] }>()
const ways = useWays()
const call = computed(() => props.view.call)
const top = computed(() => call.value.webcam[0]!)
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
const change = (to: Partial<CallKind>) => void ways.call({ ...call.value, ...to })
const webcam = (to: object) => change({ webcam: [{ ...top.value, ...to }, ...call.value.webcam.slice(1)] })
const share = (to: object) => change({ share: { ...call.value.share, ...to } })
function take(id: string) {
  const kind = props.view.kinds.find((one) => one.id === id)
  if (kind) void ways.call(kind)
}
const CAN = [
  { key: 'in_browser', says: 'I join it in the browser' },
  { key: 'pins', says: 'Learners can pin someone' },
  { key: 'spotlights', says: 'I can spotlight someone for all' },
  { key: 'takes_second_camera', says: 'It takes a second camera' },
  { key: 'shares_sound', says: 'It takes the sound of a shared tab' },
] as const
</script>

<template>
  <section class="card" aria-label="The call">
    <h2>The call</h2>
    <select :value="call.id" aria-label="Kind of call" @change="take(chosen($event))">
      <option v-for="kind in view.kinds" :key="kind.id" :value="kind.id">{{ kind.name }}</option>
    </select>
    <details>
      <summary>What it sends and can do</summary>
      <p>
        Webcams at up to
        <InputNumber
          size="small"
          :value="top.width"
          :min="160"
          :max="3840"
          aria-label="Webcam width"
          @change="(v) => v && webcam({ width: Number(v), height: Math.round((Number(v) * 9) / 32) * 2 })"
        />
        px wide,
        <InputNumber
          size="small"
          :value="top.fps"
          :min="1"
          :max="60"
          aria-label="Webcam pictures a second"
          @change="(v) => v && webcam({ fps: Number(v) })"
        />
        a second
      </p>
      <p>
        Shared windows at up to
        <InputNumber
          size="small"
          :value="call.share.width"
          :min="160"
          :max="3840"
          aria-label="Shared width"
          @change="(v) => v && share({ width: Number(v), height: Math.round((Number(v) * 9) / 32) * 2 })"
        />
        px wide,
        <InputNumber
          size="small"
          :value="call.share.fps"
          :min="1"
          :max="60"
          aria-label="Shared pictures a second"
          @change="(v) => v && share({ fps: Number(v) })"
        />
        a second
      </p>
      <p>
        From me to learners
        <InputNumber
          size="small"
          :value="call.delay_ms"
          :min="0"
          :max="5000"
          aria-label="Delay of the call in milliseconds"
          @change="(v) => v !== null && change({ delay_ms: Number(v) })"
        />
        ms
      </p>
      <label v-for="one in CAN" :key="one.key"
        ><input type="checkbox" :checked="call[one.key]" @change="change({ [one.key]: !call[one.key] })" />
        {{ one.says }}</label
      >
    </details>
  </section>
</template>

<style scoped>
section {
  padding: 14px 18px;
  display: grid;
  gap: 8px;
}
select {
  font: inherit;
  min-height: 36px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--sheet);
}
details {
  font-size: 14px;
}
details p,
details label {
  display: block;
  margin: 8px 0;
}
p :deep(.ant-input-number) {
  width: 76px;
}
</style>
