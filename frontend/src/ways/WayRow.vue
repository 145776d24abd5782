<script setup lang="ts">
import VerdictMark from './VerdictMark.vue'
import { faceSays, lateSays } from './words'
import type { Way } from './ways'

defineProps<{ way: Way; chosen: boolean; best: boolean }>()
defineEmits<{ choose: [] }>()
</script>

<template>
  <button
    type="button"
    class="way"
    :class="{ chosen, off: way.impossible }"
    :aria-pressed="chosen"
    @click="$emit('choose')"
  >
    <span class="name">
      <strong>{{ way.name }}</strong>
      <small v-if="way.impossible">{{ way.impossible }}</small>
      <small v-else-if="way.running" class="runs">In use</small>
      <small v-else-if="best">Best for this lesson</small>
      <small v-else-if="!way.ready">To be set up first</small>
      <small v-else>Ready</small>
    </span>
    <template v-if="!way.impossible">
      <span class="cell"
        ><b class="num">{{ way.worst_pt === null ? '–' : `${way.worst_pt} pt` }}</b
        ><VerdictMark
          :reading="way.reading"
          :learners="way.learners"
          :known="way.gets.some((one) => one.reads !== null)"
      /></span>
      <span class="cell">{{ faceSays(way) }}</span>
      <span class="cell"
        ><span class="num">{{ way.width }}×{{ way.height }}</span
        ><small>{{ way.fps.toFixed(0) }} a second</small></span
      >
      <span class="cell num">{{ lateSays(way.delay_ms) }}</span>
      <span class="cell">{{ way.sound }}</span>
      <span class="cell num">{{ way.presses }}</span>
    </template>
  </button>
</template>

<style scoped>
.way {
  display: grid;
  grid-template-columns: 1.5fr 1fr 0.9fr 0.95fr 0.5fr 0.6fr 0.45fr;
  gap: 8px;
  align-items: center;
  width: 100%;
  min-height: 54px;
  padding: 6px 12px;
  border: 1px solid transparent;
  border-radius: 10px;
  background: none;
  color: inherit;
  font: inherit;
  font-size: 14px;
  text-align: left;
}
.way:hover {
  background: var(--paper);
}
.chosen {
  border-color: var(--lapis);
  background: var(--lapis-tint);
}
.off {
  grid-template-columns: 1fr;
  color: var(--soft);
}
.name {
  display: grid;
}
small {
  display: block;
  color: var(--soft);
  font-size: 13px;
}
.runs {
  color: var(--malachite);
  font-weight: 650;
}
.cell {
  line-height: 1.25;
}
.cell b {
  font-size: 16px;
}
</style>
