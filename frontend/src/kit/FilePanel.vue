<script setup lang="ts">
import { Button, Switch } from 'ant-design-vue'
import { computed } from 'vue'
import { api, answer, type Device, type FeedView, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { useClipSound } from './clipSound'

const props = defineProps<{ device: Device; feed?: FeedView; files: Schemas['FilesView'] }>()
const sentences = useSentences()
const sounds = useClipSound()
const path = computed(() => ({ device_id: props.device.id }))
const clip = computed(() => props.feed?.clip ?? null)
const time = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`

async function turn(by: number) {
  await sentences.attempt(() =>
    answer(api.PUT('/api/kit/devices/{device_id}/page', { params: { path: path.value }, body: { by } })),
  )
}
async function change(body: Schemas['ClipChange']) {
  await sentences.attempt(() =>
    answer(api.PUT('/api/kit/devices/{device_id}/clip', { params: { path: path.value }, body })),
  )
}
</script>

<template>
  <div v-if="clip" class="panel">
    <div class="row">
      <Button size="small" @click="change({ playing: !clip.playing })">{{
        clip.playing ? 'Pause' : 'Play'
      }}</Button>
      <label class="switch"
        ><Switch
          size="small"
          :checked="clip.loops"
          aria-label="Loop"
          @change="(on) => change({ loops: on === true })"
        />
        Loop</label
      >
      <Button size="small" @click="change({ position_s: 0 })">From the start</Button>
      <span class="num">{{ time(clip.position_s) }} / {{ time(clip.duration_s) }}</span>
    </div>
    <div class="row soft">
      <span v-if="!files.sound">No sound</span>
      <label v-else class="switch"
        ><Switch
          size="small"
          :checked="sounds.open.has(device.id)"
          aria-label="Sound"
          @change="sounds.toggle(device.id)"
        />
        Sound</label
      >
    </div>
  </div>
  <div v-else-if="files.pages" class="row">
    <Button size="small" :disabled="device.page <= 0" @click="turn(-1)">Previous page</Button>
    <span class="num">{{ Math.min(device.page + 1, files.pages) }} of {{ files.pages }}</span>
    <Button size="small" :disabled="device.page >= files.pages - 1" @click="turn(1)">Next page</Button>
  </div>
</template>

<style scoped>
.switch {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.panel {
  display: grid;
  gap: 6px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  font-size: 13.5px;
}
</style>
