<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { api, answer, type Device, type FeedView, type Schemas } from '@/api/client'
import { useClipSound } from '@/kit/clipSound'
import { useKeys } from '@/shared/keys'
import { useSentences } from '@/shared/sentences'

/** A clip on the plate: play, pause and sound without leaving the lesson. */
const props = defineProps<{ device: Device; feed: FeedView; files: Schemas['FilesView'] }>()
const sentences = useSentences()
const sounds = useClipSound()
const clip = computed(() => props.feed.clip!)
const sounding = computed(() => sounds.open.has(props.device.id))
const time = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`

async function change(body: Schemas['ClipChange']) {
  const path = { device_id: props.device.id }
  await sentences.attempt(() =>
    answer(api.PUT('/api/kit/devices/{device_id}/clip', { params: { path }, body })),
  )
}
const play = () => void change({ playing: !clip.value.playing })
function sound() {
  if (props.files.sound) sounds.toggle(props.device.id)
  else sentences.say(`“${props.device.name}” has no sound.`)
}
useKeys('clip', { play, sound })
</script>

<template>
  <div class="clip" role="group" :aria-label="`Clip: ${device.name}`">
    <strong>{{ device.name }}</strong>
    <span class="num">{{ time(clip.position_s) }} / {{ time(clip.duration_s) }}</span>
    <Button @click="play">{{ clip.playing ? 'Pause' : 'Play' }} <kbd>V</kbd></Button>
    <Button @click="change({ position_s: 0 })">From the start</Button>
    <Button v-if="files.sound" @click="sound"
      >{{ sounding ? 'Switch its sound off' : 'Switch its sound on' }} <kbd>X</kbd></Button
    >
  </div>
</template>

<style scoped>
.clip {
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 44px;
}
.clip .ant-btn {
  min-height: 40px;
}
</style>
