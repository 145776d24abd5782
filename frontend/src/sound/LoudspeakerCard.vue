<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { onMounted, ref } from 'vue'
import { api, answer } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { useEventListener } from '@vueuse/core'
import { useLoudspeaker } from './loudspeaker'
import { useSoundLook } from './look'
import { at } from '@/shared/at'

const PROBE_S = 3.2 // two whole periods of the noise, and the way to the microphones
const loudspeaker = useLoudspeaker()
const sentences = useSentences()
const look = useSoundLook()
const busy = ref<'tone' | 'voice' | 'probe' | null>(null)
onMounted(loudspeaker.look)
useEventListener(navigator.mediaDevices, 'devicechange', () => void loudspeaker.look())

async function during(what: 'tone' | 'voice' | 'probe', work: () => Promise<unknown>) {
  busy.value = what
  await work().catch(() =>
    sentences.say('The browser could not play it on this loudspeaker. Choose another.'),
  )
  busy.value = null
}
const tone = () => during('tone', loudspeaker.tone)
const voice = () => during('voice', () => loudspeaker.play(at('/api/sound/voice')))
/** Plays a quiet noise and asks which microphones hear it. */
function probe() {
  return during('probe', async () => {
    const over = loudspeaker.play(at('/api/sound/probe.wav'))
    await new Promise((resolve) => setTimeout(resolve, 1000 * PROBE_S))
    await sentences.attempt(async () => look.take(await answer(api.POST('/api/sound/probe'))))
    loudspeaker.playing?.pause()
    await over
  })
}
</script>

<template>
  <section class="card" aria-label="Loudspeaker">
    <h2>Loudspeaker</h2>
    <select
      v-if="loudspeaker.canChoose && loudspeaker.here.length"
      :value="loudspeaker.chosen"
      aria-label="Which loudspeaker"
      @change="loudspeaker.choose(($event.target as HTMLSelectElement).value)"
    >
      <option value="">The system’s own</option>
      <option v-for="one in loudspeaker.here" :key="one.id" :value="one.id">{{ one.label }}</option>
    </select>
    <p v-else class="soft">This browser plays on the system’s own loudspeaker.</p>
    <div class="presses">
      <Button size="small" :disabled="!!busy" @click="tone">Test tone</Button>
      <Button size="small" :disabled="!!busy" @click="voice">A voice</Button>
      <Button size="small" :disabled="!!busy" @click="probe">{{
        busy === 'probe' ? 'Listening for it…' : 'Which microphones hear it?'
      }}</Button>
    </div>
  </section>
</template>

<style scoped>
section {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
}
select {
  font: inherit;
  padding: 4px 8px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--sheet);
  max-width: 100%;
}
.presses {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
</style>
