<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { LEARNERS } from './words'

defineProps<{ sound: Schemas['SoundView'] }>()
const live = useLive()
const sentences = useSentences()
const testing = ref(false)
const clapped = ref<Schemas['ClapView'] | null>(null)

/** Opens a window that flashes and clicks at one moment; the camera sees the one, the open microphone hears the other. */
async function test() {
  testing.value = true
  const clapper = window.open('/clapper', 'cartouche-clapper', 'popup,width=520,height=420')
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
