<script setup lang="ts">
import { onScopeDispose, watch } from 'vue'
import { useLive } from '@/shared/live'
import { useCameras } from './cameras'
import { useHere } from './here'

/** Brings the kit's cameras in when the page opens, follows their sizes, and lets go of those taken out. Shows nothing. */
const live = useLive()
const cameras = useCameras()
const here = useHere()

watch(
  () => live.kit?.devices,
  async (devices) => {
    if (!devices) return
    const ours = devices.filter((device) => device.kind === 'camera' || device.kind === 'window')
    for (const id of [...cameras.status.keys()]) {
      if (!ours.some((device) => device.id === id)) cameras.letGo(id)
    }
    for (const device of ours) {
      if (cameras.status.has(device.id)) void cameras.resize(device)
      else if (device.kind === 'window') cameras.awaitChoice(device.id)
      else void cameras.bring(device).then(() => here.look())
    }
  },
  { immediate: true },
)
watch(
  () => live.kit && (live.kit.kit?.id ?? 'none yet'),
  (kit) => kit && void here.look(),
  { immediate: true }, // the kit may be known already when this opens
)
const plugged = () => void here.look()
navigator.mediaDevices?.addEventListener('devicechange', plugged)
onScopeDispose(() => navigator.mediaDevices?.removeEventListener('devicechange', plugged))
</script>

<template><span hidden /></template>
