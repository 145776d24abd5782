<script setup lang="ts">
import { watch } from 'vue'
import { useCameras } from './cameras'
import { useLive } from '@/shared/live'

/** Brings the kit's cameras in when the page opens, and lets go of those taken out. Shows nothing. */
const live = useLive()
const cameras = useCameras()

watch(
  () => live.kit?.devices,
  (devices) => {
    const wanted = (devices ?? []).filter((device) => device.kind === 'camera')
    for (const id of [...cameras.status.keys()]) {
      if (devices && !wanted.some((device) => device.id === id)) cameras.letGo(id)
    }
    for (const device of wanted) {
      if (!cameras.status.has(device.id)) void cameras.bring(device.id, device.source)
    }
  },
  { immediate: true },
)
</script>

<template><span hidden /></template>
