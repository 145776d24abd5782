<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useLive } from '@/shared/live'
import CameraDialog from './CameraDialog.vue'
import DeviceCard from './DeviceCard.vue'

const live = useLive()
const choosing = ref(false)
const serving = computed(() => ({ page: live.pageDevice?.name, face: live.faceDevice?.name }))
const taken = computed(() =>
  (live.kit?.devices ?? []).filter((one) => one.kind === 'camera').map((one) => one.source),
)
</script>

<template>
  <main class="screen">
    <div class="head">
      <div>
        <h1>{{ live.kit?.kit.name ?? 'Kit' }}</h1>
        <p class="soft">{{ live.kit?.kit.room }} · is everything alive, and is it the right one?</p>
      </div>
      <Button type="primary" size="large" @click="choosing = true">Use a camera of this computer</Button>
    </div>
    <div v-if="live.kit" class="cards" :style="{ '--count': live.kit.devices.length }">
      <DeviceCard
        v-for="device in live.kit.devices"
        :key="device.id"
        :device="device"
        :feed="live.feeds.get(device.id)"
        :rigs="live.kit.rigs"
        :fault="live.kit.faults[device.id] ?? null"
      />
    </div>
    <CameraDialog v-model:open="choosing" :rigs="live.kit?.rigs ?? []" :taken="taken" :serving="serving" />
  </main>
</template>

<style scoped>
.screen {
  overflow: auto;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 14px;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(max(272px, min(420px, 100% / var(--count) - 16px)), 1fr));
  gap: 16px;
  align-items: start;
}
</style>
