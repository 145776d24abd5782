<script setup lang="ts">
import type { Plate, Schemas } from '@/api/client'
import PlateThumb from '@/shared/PlateThumb.vue'
import SurfaceView from '@/shared/SurfaceView.vue'

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
      <span class="small" aria-hidden="true">
        <PlateThumb :plate="plate" :rects="rects[plate.id]" :on="plate.id === on" />
        <SurfaceView :surface="`glance:${plate.id}`" :width="236" :fps="1" label="" waiting="" />
      </span>
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
.small {
  display: block;
  position: relative;
}
.plates .small :deep(.surface) {
  position: absolute;
  inset: 3px;
  width: auto;
  height: auto;
  border-radius: 6px;
  background: none;
}
.plates .small :deep(canvas[data-shown='false']) {
  visibility: hidden;
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
