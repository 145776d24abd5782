<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type { Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useLoudspeaker } from './loudspeaker'
import { KINDS, WORDS } from './words'
import { at } from '@/shared/at'

defineProps<{ echoes: Schemas['EchoView'][] }>()
const loudspeaker = useLoudspeaker()
</script>

<template>
  <section class="card" aria-label="Echo test">
    <h2>As learners hear you</h2>
    <ul>
      <li v-for="one in echoes" :key="one.number">
        <div>
          <b>{{ one.label }}</b>
          <VerdictChip :kind="KINDS[one.kind] ?? 'unknown'">{{ WORDS[one.kind] }}</VerdictChip>
        </div>
        <p role="status">{{ one.says }}</p>
        <p v-if="one.kind !== 'not heard'" class="soft num">
          {{ one.loudness.toFixed(0) }} LUFS · {{ one.snr_db.toFixed(0) }} dB above the background ·
          {{ Math.round(100 * one.missing) }}% missing
        </p>
        <Button size="small" @click="loudspeaker.play(at(`/api/sound/echo/${one.number}.wav`))"
          >Play again</Button
        >
      </li>
    </ul>
    <p v-if="echoes.length === 1" class="soft">Try another microphone: this one stays here to compare.</p>
  </section>
</template>

<style scoped>
section {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 14px;
}
li {
  display: grid;
  gap: 4px;
  justify-items: start;
  font-size: 13.5px;
  align-content: start;
}
li > div {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.num {
  font-size: 12.5px;
}
</style>
