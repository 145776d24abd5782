<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { useSoundLook } from './look'
import { LEARNERS } from './words'
import { at } from '@/shared/at'

defineProps<{ sound: Schemas['SoundView'] }>()
const live = useLive()
const sentences = useSentences()
const look = useSoundLook()
const testing = ref(false)
const clapped = ref<Schemas['ClapView'] | null>(null)

const SEEN_MS = 20 // less nobody sees
const correction = computed(() => {
  const offset = clapped.value?.offset_ms ?? 0
  return Math.abs(offset) < SEEN_MS ? 0 : -offset
})
async function correct() {
  const by = correction.value
  clapped.value = null
  await look.declare((kit) => ({ ...kit, trim_ms: Math.max(-500, Math.min(500, kit.trim_ms + by)) }))
}

/** Opens a window that flashes and clicks at one moment; the camera sees the one, the open microphone hears the other. */
async function test() {
  testing.value = true
  const clapper = window.open(at('/clapper'), 'cartouche-clapper', 'popup,width=520,height=420')
  const told = await sentences.attempt(() => answer(api.POST('/api/sound/clap')))
  clapped.value = told ?? clapped.value
  clapper?.close()
  testing.value = false
}
</script>

<template>
  <section class="card" aria-label="What learners hear">
    <h2>What learners hear</h2>
    <template v-if="sound.learners">
      <VerdictChip :kind="LEARNERS[sound.learners.kind]?.kind ?? 'unknown'">{{
        LEARNERS[sound.learners.kind]?.word
      }}</VerdictChip>
      <p role="status">{{ sound.learners.says }}</p>
      <p class="soft num">
        {{ sound.learners.loudness.toFixed(0) }} LUFS<template v-if="sound.learners.offset_ms !== null">
          · sound {{ Math.abs(sound.learners.offset_ms).toFixed(0) }} ms
          {{ sound.learners.offset_ms < 0 ? 'before' : 'after' }} the picture</template
        >
      </p>
    </template>
    <p v-else-if="live.state?.call_running" class="soft">Listening at the learners’ end…</p>
    <p v-else class="soft">Start the practice call on Teach to hear what they get.</p>
    <p v-if="clapped" role="status">{{ clapped.says }}</p>
    <Button v-if="correction" size="small" type="primary" @click="correct"
      >Let the sound {{ correction > 0 ? 'wait' : 'come' }} {{ Math.abs(correction) }} ms
      {{ correction > 0 ? 'longer' : 'sooner' }}</Button
    >
    <Button size="small" :disabled="testing" @click="test">{{
      testing ? 'Show the clapper to the camera…' : 'Test picture against sound'
    }}</Button>
    <p class="soft">
      Your sound waits <span class="num">{{ sound.delay_ms.toFixed(0) }} ms</span> for the picture.
    </p>
  </section>
</template>

<style scoped>
section {
  padding: 12px 16px;
  display: grid;
  gap: 5px;
  justify-items: start;
  font-size: 14px;
}
</style>
