<script setup lang="ts">
import type { Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useLive } from '@/shared/live'
import { LEARNERS } from './words'

defineProps<{ sound: Schemas['SoundView'] }>()
const live = useLive()
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
