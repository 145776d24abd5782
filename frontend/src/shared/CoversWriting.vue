<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { api, answer } from '@/api/client'
import { useLive } from './live'
import { useSentences } from './sentences'
import VerdictChip from './VerdictChip.vue'

const live = useLive()
const sentences = useSentences()
const plate = computed(() => live.teach?.plates.find((one) => one.id === live.state?.outgoing.plate_id))
const covered = computed(() => live.state?.outgoing.covered[0] ?? null)
const place = computed(() => (covered.value ? plate.value?.places[covered.value.place] : undefined))
const share = computed(() => {
  const value = 100 * (covered.value?.share ?? 0)
  return value < 1 ? value.toFixed(1) : String(Math.round(value))
})

async function mend() {
  const at = covered.value?.place
  const on = plate.value
  if (at === undefined || !on) return
  const places = on.places.map((one, number) => (number === at ? { ...one, off_writing: true } : one))
  const path = { plate_id: on.id }
  const body = { plate: { ...on, places }, settled: true }
  await sentences.attempt(() => answer(api.PUT('/api/plates/{plate_id}', { params: { path }, body })))
}
</script>

<template>
  <p v-if="covered && place" class="covers" role="status">
    <VerdictChip kind="wrong"
      >{{ place.content.kind === 'role' && place.content.role === 'face' ? 'The face' : 'A place' }} covers
      {{ share }}% of the writing</VerdictChip
    >
    <Button v-if="!place.off_writing" size="small" @click="mend">Keep it off the writing</Button>
    <span v-else class="soft">It moves when there is room.</span>
  </p>
</template>

<style scoped>
.covers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
</style>
