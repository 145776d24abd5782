<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import { api, answer } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { useLoudspeaker } from './loudspeaker'
import { useSoundLook } from './look'
import { at } from '@/shared/at'

const LASTS_S = 5
const props = defineProps<{ id: string; name: string; disabled: boolean }>()
const sentences = useSentences()
const loudspeaker = useLoudspeaker()
const look = useSoundLook()
const left = ref(0)

/** Five seconds are recorded, then played back as learners get them. */
async function run() {
  left.value = LASTS_S
  const timer = window.setInterval(() => (left.value = Math.max(0, left.value - 1)), 1000)
  try {
    const told = await sentences.attempt(() =>
      answer(api.POST('/api/sound/echo/{microphone_id}', { params: { path: { microphone_id: props.id } } })),
    )
    if (!told) return
    await look.look()
    left.value = -1
    await loudspeaker.play(at(`/api/sound/echo/${told.number}.wav`)).catch(() => {
      sentences.say('The browser could not play it. Click Play again below.')
    })
  } finally {
    window.clearInterval(timer)
    left.value = 0
  }
}
</script>

<template>
  <Button size="small" :disabled="disabled || left !== 0" :aria-label="`Echo test of ${name}`" @click="run">
    <template v-if="left > 0"
      >Speak… <span class="num">{{ left }}</span></template
    >
    <template v-else-if="left < 0">Listen…</template>
    <template v-else>Echo test</template>
  </Button>
</template>
