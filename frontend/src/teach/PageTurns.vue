<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { api, answer, type Device } from '@/api/client'
import { useSentences } from '@/shared/sentences'

/** Next and previous page of the slides or pages that are on the plate. */
const props = defineProps<{ device: Device; pages: number }>()
const sentences = useSentences()

async function turn(by: number) {
  const path = { device_id: props.device.id }
  await sentences.attempt(() =>
    answer(api.PUT('/api/kit/devices/{device_id}/page', { params: { path }, body: { by } })),
  )
}
</script>

<template>
  <div v-roving class="turns">
    <strong>{{ device.name }}</strong>
    <span class="num">{{ Math.min(device.page + 1, pages) }} of {{ pages }}</span>
    <Button :disabled="device.page <= 0" @click="turn(-1)">Previous page</Button>
    <Button :disabled="device.page >= pages - 1" @click="turn(1)">Next page</Button>
  </div>
</template>

<style scoped>
.turns {
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 44px;
}
.turns .ant-btn {
  min-height: 40px;
}
</style>
