<script setup lang="ts">
import type { Plate, Schemas } from '@/api/client'
import PlateThumb from '@/shared/PlateThumb.vue'

defineProps<{ plates: Plate[]; rects: Record<string, Schemas['Rect'][]>; on: string | null }>()
defineEmits<{ choose: [plateId: string] }>()
</script>

<template>
  <div v-roving class="plates" role="group" aria-label="Plates">
    <button
      v-for="(plate, index) in plates"
      :key="plate.id"
      :class="{ on: plate.id === on }"
      :aria-pressed="plate.id === on"
      @click="$emit('choose', plate.id)"
    >
      <PlateThumb :plate="plate" :rects="rects[plate.id]" :on="plate.id === on" />
      <span class="name"
        ><kbd>{{ index + 1 }}</kbd
        >{{ plate.name }}</span
      >
    </button>
  </div>
</template>

<style scoped>
.plates :deep(.thumb) {
  max-width: 100%;
}
.plates {
  display: flex;
  gap: 10px;
  align-items: start;
  overflow-x: auto;
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
  flex: 0 1 118px;
  min-width: 84px;
  overflow-wrap: anywhere;
}
.name {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: 5px;
}
.on .name {
  font-weight: 700;
  color: var(--lapis);
}
</style>
