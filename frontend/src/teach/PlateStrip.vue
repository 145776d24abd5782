<script setup lang="ts">
import type { Plate } from '@/api/client'

defineProps<{ plates: Plate[]; on: string | null }>()
defineEmits<{ choose: [plateId: string] }>()

function style(place: Plate['places'][number]) {
  const { x, y, width, height } = place.rect
  return { left: `${x * 100}%`, top: `${y * 100}%`, width: `${width * 100}%`, height: `${height * 100}%` }
}
function kind(place: Plate['places'][number]) {
  return 'role' in place.content ? place.content.role : 'page'
}
</script>

<template>
  <div class="plates" role="group" aria-label="Plates">
    <button
      v-for="(plate, index) in plates"
      :key="plate.id"
      :class="{ on: plate.id === on }"
      :aria-pressed="plate.id === on"
      @click="$emit('choose', plate.id)"
    >
      <span class="thumb" aria-hidden="true"
        ><i v-for="(place, at) in plate.places" :key="at" :class="kind(place)" :style="style(place)"
      /></span>
      <span class="name"
        ><kbd>{{ index + 1 }}</kbd
        >{{ plate.name }}</span
      >
    </button>
  </div>
</template>

<style scoped>
.plates {
  display: flex;
  gap: 10px;
}
button {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  font-size: 13.5px;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
  width: 132px;
}
.thumb {
  display: block;
  position: relative;
  aspect-ratio: 16/9;
  border: 2px solid var(--line);
  border-radius: 9px;
  background: #e9e2d3;
  overflow: hidden;
}
.thumb i {
  position: absolute;
  border-radius: 3px;
  border: 1px solid #cfc6b3;
  background: #fff;
}
.thumb .face {
  background: #bfd0c6;
}
.name {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: 5px;
}
.on .thumb {
  border: 3px solid var(--lapis);
}
.on .name {
  font-weight: 700;
  color: var(--lapis);
}
</style>
