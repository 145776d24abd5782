<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { api, answer, type Device, type Schemas } from '@/api/client'
import { controlsOf, refocus, set } from '@/shared/lens'
import { useSentences } from '@/shared/sentences'
import { useCameras } from './cameras'
import ControlPanel from './ControlPanel.vue'
import SizeChoice from './SizeChoice.vue'

type Change = Schemas['ControlChange']
const props = defineProps<{
  device: Device
  sizes?: Schemas['SizesView']
  guest?: Schemas['GuestView']
}>()
const cameras = useCameras()
const sentences = useSentences()

/** What can be set: on a phone by asking it, on a camera of this computer by this tab. */
const own = computed(() => {
  const sends = cameras.status.get(props.device.id)?.phase === 'sending'
  const track = sends && props.device.kind === 'camera' ? cameras.trackOf(props.device.id) : null
  return track ? { track, ...controlsOf(track) } : null
})
const spans = computed(() => (props.guest?.here ? props.guest.spans : (own.value?.spans ?? {})))
const settings = computed(() => (props.guest?.here ? props.guest.settings : (own.value?.settings ?? {})))
const canRefocus = computed(() =>
  props.guest?.here ? props.guest.can_refocus : (own.value?.canRefocus ?? false),
)
const hasControls = computed(
  () => Object.keys(spans.value).length > 0 || canRefocus.value || (props.guest?.lenses.length ?? 0) > 1,
)
const hasSizes = computed(() => (props.sizes?.offered.length ?? 0) > 1)

async function ask(change: Partial<Change>) {
  const body = { settings: {}, refocus: false, ...change }
  const path = { device_id: props.device.id }
  await sentences.attempt(() =>
    answer(api.PUT('/api/guests/{device_id}/controls', { params: { path }, body })),
  )
}
async function change(wanted: Record<string, number>) {
  if (props.guest?.here) return ask({ settings: wanted as Change['settings'] })
  if (own.value) await set(own.value.track, wanted)
}
async function focus() {
  if (props.guest?.here) return ask({ refocus: true })
  if (own.value) await refocus(own.value.track)
}
</script>

<template>
  <details v-if="hasSizes || hasControls || guest?.here">
    <summary>Picture and controls</summary>
    <div class="inside">
      <SizeChoice v-if="hasSizes && sizes" :device-id="device.id" :sizes="sizes" />
      <ControlPanel
        v-if="hasControls"
        :spans="spans as never"
        :settings="settings as never"
        :can-refocus="canRefocus"
        :lenses="guest?.here ? guest.lenses : []"
        :lens="guest?.lens ?? null"
        @set="change"
        @refocus="focus"
        @lens="(lens) => ask({ lens })"
      />
      <Button
        v-if="guest?.here && guest.microphone !== 'none'"
        size="small"
        @click="ask({ microphone: guest.microphone !== 'on' })"
        >{{ guest.microphone === 'on' ? 'Its microphone off' : 'Its microphone on' }}</Button
      >
    </div>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  font-weight: 600;
  color: var(--lapis);
  font-size: 14px;
}
.inside {
  display: grid;
  justify-items: start;
  gap: 12px;
  margin-top: 8px;
}
.inside > div {
  width: 100%;
}
</style>
