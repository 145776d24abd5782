<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { SquareUpView } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { PRESSES, type Press } from './presses'

const props = defineProps<{ view: SquareUpView; canRefocus: boolean }>()
const emit = defineEmits<{ take: [press: Press] }>()
const WORDS = { holds: 'Good', look: 'Look at this', wrong: 'Mend this' } as const
const press = computed(() => {
  const press = props.view.first.press
  return press === 'refocus' && !props.canRefocus ? '' : press
})
const more = computed(() =>
  props.view.first.press === 'refocus' && !props.canRefocus ? 'Press focus on the camera itself.' : '',
)
</script>

<template>
  <section class="first card" aria-label="What to do" role="status">
    <VerdictChip :kind="view.first.kind">{{ WORDS[view.first.kind] }}</VerdictChip>
    <p>{{ view.first.says }} {{ more }}</p>
    <Button v-if="press" @click="emit('take', press)">{{ PRESSES[press] }}</Button>
  </section>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  align-items: center;
  gap: 12px;
  padding: 10px 14px;
}
p {
  margin: 0;
}
</style>
