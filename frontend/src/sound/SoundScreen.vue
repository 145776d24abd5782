<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted } from 'vue'
import { useLive } from '@/shared/live'
import EchoResults from './EchoResults.vue'
import FindingsBar from './FindingsBar.vue'
import LearnersHear from './LearnersHear.vue'
import LoudspeakerCard from './LoudspeakerCard.vue'
import { useSoundLook } from './look'
import MicrophoneRow from './MicrophoneRow.vue'
import { TROUBLES, useMicrophones } from './microphones'
import StationsCard from './StationsCard.vue'
import WhoHears from './WhoHears.vue'

const LOOK_MS = 250
const live = useLive()
const microphones = useMicrophones()
const look = useSoundLook()
let timer = 0

onMounted(() => {
  void look.look()
  void microphones.look()
  timer = window.setInterval(look.look, LOOK_MS)
})
onBeforeUnmount(() => {
  window.clearInterval(timer)
  microphones.leave()
})

const facts = computed(() => new Map((look.sound?.microphones ?? []).map((one) => [one.id, one])))
const anyOpen = computed(() => (look.sound?.microphones ?? []).some((one) => one.open))
const rows = computed(() => [
  ...microphones.here.map(({ id, label }) => ({ id, label })),
  ...(look.sound?.microphones ?? [])
    .filter((one) => one.phone || one.window || one.case)
    .map(({ id, label }) => ({ id, label })),
])
</script>

<template>
  <main class="screen">
    <div class="head">
      <div>
        <h1>Sound</h1>
        <p v-if="live.microphone" class="soft">
          <b>{{ live.microphone }}</b> is open. All others are closed.
        </p>
        <p v-else class="soft">All microphones are closed. One may be open at a time.</p>
      </div>
      <Button size="large" :disabled="!live.microphone" @click="microphones.open(null)"
        >Close all <kbd>M</kbd></Button
      >
    </div>
    <FindingsBar v-if="look.sound" :sound="look.sound" />
    <div class="columns">
      <div class="column">
        <section v-if="microphones.trouble && !rows.length" class="card trouble" role="alert">
          <p>{{ TROUBLES[microphones.trouble].sentence }}</p>
          <Button type="primary" @click="microphones.look">{{ TROUBLES[microphones.trouble].press }}</Button>
        </section>
        <p v-else-if="microphones.trouble" class="soft note" role="alert">
          {{ TROUBLES[microphones.trouble].sentence }}
          <Button size="small" @click="microphones.look">{{ TROUBLES[microphones.trouble].press }}</Button>
        </p>
        <p v-else-if="!rows.length" class="soft">
          If asked, allow the microphone. Nobody hears it until you open it.
        </p>
        <ul aria-label="Microphones">
          <MicrophoneRow
            v-for="one in rows"
            :id="one.id"
            :key="one.id"
            :label="one.label"
            :facts="facts.get(one.id)"
            :trouble="microphones.troubles.get(one.id)"
            :any-open="anyOpen"
          />
        </ul>
        <EchoResults v-if="look.sound?.echoes.length" :echoes="look.sound.echoes" />
        <div v-if="look.sound" class="two">
          <LearnersHear :sound="look.sound" />
          <LoudspeakerCard />
        </div>
      </div>
      <div v-if="look.sound" class="column">
        <WhoHears :sound="look.sound" />
        <StationsCard />
      </div>
    </div>
  </main>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-start;
  gap: 16px;
  margin-bottom: 12px;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1.05fr) minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
.column {
  display: grid;
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
.trouble {
  padding: 16px 20px;
  display: grid;
  gap: 12px;
  justify-items: start;
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
