<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { api, answer } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { useCameras } from './cameras'
import { WholeScreen, openWindow, release, surfaceOf } from './capture'
import RoleChoice from './RoleChoice.vue'
import type { Serves } from './serves'

const shown = defineModel<boolean>('open', { required: true })
const cameras = useCameras()
const sentences = useSentences()
const name = ref('')
const serves = ref<Serves>('page')
const asked = ref<'window' | 'screen'>('window')
const trouble = ref<string | null>(null)
watch(shown, () => {
  asked.value = 'window'
  trouble.value = null
})

async function choose(wholeScreen: boolean) {
  trouble.value = null
  let stream: MediaStream
  try {
    stream = await openWindow(wholeScreen)
  } catch (error) {
    if (error instanceof WholeScreen) asked.value = 'screen'
    else trouble.value = 'No window was chosen. Press again, then pick one from the browser’s list.'
    return
  }
  const track = stream.getVideoTracks()[0]!
  const surface = surfaceOf(stream)
  const words = { browser: 'Browser tab', window: 'Window', monitor: 'Whole screen' }[surface]
  const body = {
    kind: 'window' as const,
    source: surface,
    label: words,
    name: name.value.trim() || words,
    rig: 'as-it-is' as const,
    serves: serves.value === 'nothing' ? null : serves.value,
    microphone: '',
    max_width: track.getSettings().width ?? null,
    max_height: track.getSettings().height ?? null,
    whole_screen: wholeScreen,
  }
  const device = await sentences.attempt(() => answer(api.POST('/api/kit/devices', { body })))
  if (!device) return release(stream)
  void cameras.bring(device, stream)
  shown.value = false
}
</script>

<template>
  <Modal v-model:open="shown" title="Show a window or a browser tab" :footer="null" width="560px">
    <div v-if="asked === 'window'" class="body">
      <p>Learners see this one window and nothing else of your screen.</p>
      <label>Your name for it <Input v-model:value="name" :maxlength="60" placeholder="Window" /></label>
      <RoleChoice v-model="serves" />
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <div class="presses">
        <Button type="primary" @click="choose(false)">Choose the window</Button>
        <Button type="text" @click="asked = 'screen'">The whole screen instead …</Button>
      </div>
    </div>
    <div v-else class="body" role="alertdialog" aria-label="The whole screen?">
      <p class="big">Really the whole screen?</p>
      <p>
        Learners would see everything that comes up on it: mail, messages, names, marks. One window shows only
        what is meant to be shown.
      </p>
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <div class="presses">
        <Button type="primary" @click="asked = 'window'">No, one window</Button>
        <Button danger @click="choose(true)">Yes, show the whole screen</Button>
      </div>
    </div>
  </Modal>
</template>

<style scoped>
.body {
  display: grid;
  gap: 14px;
}
label {
  display: grid;
  gap: 6px;
}
.presses {
  display: flex;
  gap: 10px;
}
.big {
  font-size: 18px;
  font-weight: 700;
}
.wrong {
  color: var(--carnelian);
}
</style>
