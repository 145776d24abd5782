<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import VerdictChip from '@/shared/VerdictChip.vue'
import { TROUBLES, useMicrophones } from './microphones'

const LOOK_MS = 250
const FLOOR_DB = -60
const live = useLive()
const microphones = useMicrophones()
const told = ref<Schemas['SoundView'] | null>(null)
let timer = 0

onMounted(() => {
  void microphones.look()
  timer = window.setInterval(look, LOOK_MS)
})
onBeforeUnmount(() => {
  window.clearInterval(timer)
  microphones.leave()
})
useEventListener(navigator.mediaDevices, 'devicechange', () => void microphones.look())
let asking = false
async function look() {
  if (asking || document.hidden) return
  asking = true
  told.value = await answer(api.GET('/api/sound')).catch(() => told.value)
  asking = false
}

const KINDS: Record<string, 'holds' | 'look' | 'wrong'> = {
  well: 'holds',
  'no voice': 'look',
  'too quiet': 'look',
  noisy: 'look',
  'too loud': 'wrong',
  noise: 'wrong',
  hum: 'wrong',
  nothing: 'wrong',
}
const WORDS: Record<string, string> = {
  well: 'Good',
  'no voice': 'No voice yet',
  'too quiet': 'Too quiet',
  noisy: 'Noisy',
  'too loud': 'Too loud',
  noise: 'Only noise',
  hum: 'Hum',
  nothing: 'Nothing at all',
}
const rows = computed(() => [
  ...microphones.here.map((one) => ({
    ...one,
    trouble: microphones.troubles.get(one.id),
    facts: told.value?.microphones.find((known) => known.id === one.id),
  })),
  ...(told.value?.microphones ?? [])
    .filter((one) => one.phone)
    .map((facts) => ({ id: facts.id, label: facts.label, trouble: undefined, facts })),
])
const openName = computed(() => live.microphone)
const share = (db: number | undefined) =>
  Math.max(0, Math.min(100, (100 * ((db ?? FLOOR_DB) - FLOOR_DB)) / -FLOOR_DB))
</script>

<template>
  <main class="screen">
    <div class="head">
      <div>
        <h1>Sound</h1>
        <p v-if="openName" class="soft">
          <b>{{ openName }}</b> is open. All others are closed.
        </p>
        <p v-else class="soft">All microphones are closed. One may be open at a time.</p>
      </div>
      <Button size="large" :disabled="!openName" @click="microphones.open(null)"
        >Close all <kbd>M</kbd></Button
      >
    </div>
    <section v-if="microphones.trouble" class="card trouble" role="alert">
      <p>{{ TROUBLES[microphones.trouble].sentence }}</p>
      <Button type="primary" @click="microphones.look">{{ TROUBLES[microphones.trouble].press }}</Button>
    </section>
    <p v-else-if="!rows.length" class="soft">
      If asked, allow the microphone. Nobody hears it until you open it.
    </p>
    <ul v-roving aria-label="Microphones">
      <li v-for="one in rows" :key="one.id" class="card" :class="{ open: one.facts?.open }">
        <div class="name">
          <h2>{{ one.label }}</h2>
          <VerdictChip v-if="one.facts?.open" kind="holds">Open</VerdictChip>
          <VerdictChip v-else kind="unknown">Closed</VerdictChip>
        </div>
        <div
          class="meter"
          role="meter"
          :aria-label="`Level of ${one.label}`"
          aria-valuemin="-60"
          aria-valuemax="0"
          :aria-valuenow="Math.round(Math.max(FLOOR_DB, one.facts?.level_db ?? FLOOR_DB))"
        >
          <span class="bar" :style="{ width: `${share(one.facts?.level_db)}%` }" />
        </div>
        <div class="says">
          <template v-if="one.trouble">
            <p role="status">{{ TROUBLES[one.trouble].sentence }}</p>
          </template>
          <template v-else-if="one.facts?.heard">
            <VerdictChip :kind="KINDS[one.facts.heard.kind] ?? 'unknown'">{{
              WORDS[one.facts.heard.kind]
            }}</VerdictChip>
            <p role="status">{{ one.facts.heard.says }}</p>
            <p class="soft num">
              {{ one.facts.heard.loudness.toFixed(0) }} LUFS, peak {{ one.facts.heard.peak.toFixed(0) }} dB,
              background {{ one.facts.heard.floor.toFixed(0) }} LUFS
            </p>
          </template>
          <p v-else-if="one.facts?.phone" class="soft">
            {{
              one.facts.open
                ? 'On the phone: its level shows that it hears.'
                : 'On the phone: open it to hear it.'
            }}
          </p>
          <p v-else class="soft">Listening: say a sentence.</p>
        </div>
        <Button v-if="one.facts?.open" size="large" @click="microphones.open(null)">Close</Button>
        <Button
          v-else
          size="large"
          type="primary"
          ghost
          :disabled="!one.facts?.here"
          @click="microphones.open(one.id)"
          >Open this one</Button
        >
      </li>
    </ul>
  </main>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-start;
  gap: 16px;
  margin-bottom: 16px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
li {
  display: grid;
  grid-template-columns: minmax(180px, 1.1fr) minmax(120px, 1fr) minmax(240px, 2fr) 150px;
  align-items: center;
  gap: 18px;
  padding: 14px 18px;
}
li .ant-btn {
  justify-content: center;
}
li.open {
  border: 2px solid var(--lapis);
  padding: 13px 17px;
}
.name {
  display: grid;
  justify-items: start;
  gap: 6px;
  overflow-wrap: anywhere;
}
h2 {
  font-size: 16px;
}
.meter {
  height: 14px;
  border-radius: 7px;
  background: var(--stone-tint, #e4dccb);
  overflow: hidden;
}
.bar {
  display: block;
  height: 100%;
  background: var(--malachite);
  transition: width 0.15s linear;
}
.says {
  display: grid;
  justify-items: start;
  gap: 4px;
  font-size: 14px;
}
.trouble {
  padding: 16px 20px;
  display: grid;
  gap: 12px;
  justify-items: start;
}
@media (max-width: 1180px) {
  li {
    grid-template-columns: 1fr 2fr 140px;
  }
  .meter {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>
