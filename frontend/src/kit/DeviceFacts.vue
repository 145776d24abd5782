<script setup lang="ts">
import { computed } from 'vue'
import type { Device, FeedView, Schemas } from '@/api/client'
import { batteryWords, connection, microphoneWords, what } from './facts'

const props = defineProps<{ device: Device; feed?: FeedView; guest?: Schemas['GuestView'] }>()
const usable = computed(() => props.feed?.state === 'live' || props.feed?.state === 'blurred')
const microphone = computed(() => microphoneWords(props.device))
</script>

<template>
  <p class="soft facts">
    <span>{{ [what(device), connection(device, guest)].filter(Boolean).join(', ') }}</span>
    <span v-if="feed?.width" class="num">{{ feed.width }}×{{ feed.height }}</span>
    <span v-if="usable" class="num">{{ Math.round(feed?.fps ?? 0) }} frames/s</span>
    <span v-if="usable && feed?.delay_ms" class="num">{{ Math.round(feed.delay_ms) }} ms</span>
    <span v-if="microphone">{{ microphone }}</span>
    <span v-if="feed?.sound_db !== null && feed?.sound_db !== undefined" class="num"
      >{{ Math.round(feed.sound_db) }} dB</span
    >
    <span v-if="feed?.battery !== null && feed?.battery !== undefined">{{
      batteryWords(feed.battery, feed.charging)
    }}</span>
    <span v-else-if="guest?.here">Battery not known</span>
    <span v-if="guest?.here && guest.awake !== 'held'"
      >Its screen may switch off: set the screen to stay on for the lesson</span
    >
  </p>
</template>

<style scoped>
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  font-size: 13.5px;
}
</style>
