<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Device, Schemas } from '@/api/client'
import { useControls } from '@/shared/controls'
import ControlPanel from './ControlPanel.vue'
import SizeChoice from './SizeChoice.vue'

const props = defineProps<{
  device: Device
  sizes?: Schemas['SizesView']
  guest?: Schemas['GuestView']
}>()
const { spans, settings, canRefocus, ask, change, focus } = useControls(
  computed(() => props.device),
  computed(() => props.guest),
)
const hasControls = computed(
  () => Object.keys(spans.value).length > 0 || canRefocus.value || (props.guest?.lenses.length ?? 0) > 1,
)
const hasSizes = computed(() => (props.sizes?.offered.length ?? 0) > 1)
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
