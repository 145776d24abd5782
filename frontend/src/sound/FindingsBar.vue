<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type { Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useSoundLook } from './look'
import { FINDINGS } from './words'

defineProps<{ sound: Schemas['SoundView'] }>()
const look = useSoundLook()
const MOST = 5
</script>

<template>
  <section class="card" aria-label="What is wrong" aria-live="polite">
    <p v-if="sound.closed_for_howl" role="alert">
      <VerdictChip kind="wrong">Howl ended</VerdictChip>
      “{{ sound.closed_for_howl }}” began to howl and was closed. Move it away from the loudspeaker, or use
      headphones.
    </p>
    <p v-for="(one, at) in sound.findings.slice(0, MOST)" :key="at" class="finding">
      <VerdictChip :kind="FINDINGS[one.kind]?.kind ?? 'look'">{{ FINDINGS[one.kind]?.word }}</VerdictChip>
      <span class="says">{{ one.says }}</span>
      <Button
        v-if="one.press.length"
        size="small"
        :type="at ? 'default' : 'primary'"
        @click="look.press(one.press)"
        >{{ one.ends }}</Button
      >
      <span v-else class="soft">{{ one.ends }}</span>
    </p>
    <p v-if="sound.findings.length > MOST" class="soft">
      And {{ sound.findings.length - MOST }} more: end these first.
    </p>
    <p v-for="one in sound.contradictions" :key="one" class="finding">
      <VerdictChip kind="look">Differs</VerdictChip><span class="says">{{ one }}</span>
    </p>
    <p v-if="!sound.findings.length">
      <VerdictChip kind="holds">No loop</VerdictChip> By what is open and on, learners hear you once, and you
      hear them.
    </p>
  </section>
</template>

<style scoped>
section {
  padding: 10px 16px;
  display: grid;
  gap: 8px;
  margin-bottom: 14px;
}
.finding {
  display: flex;
  gap: 10px;
  align-items: center;
}
.says {
  flex: 1;
}
</style>
