<script setup lang="ts">
import { computed } from 'vue'
import type { Plate, Schemas } from '@/api/client'

const props = defineProps<{ plate: Plate; rects?: Schemas['Rect'][]; on?: boolean }>()

const boxes = computed(() =>
  props.plate.places.map((place, at) => {
    const { x, y, width, height } = props.rects?.[at] ?? place.rect
    const content = place.content
    return {
      kind: content.kind === 'role' ? content.role : content.kind,
      style: {
        left: `${x * 100}%`,
        top: `${y * 100}%`,
        width: `${width * 100}%`,
        height: `${height * 100}%`,
        borderRadius: place.round ? '50%' : place.rounding > 0 ? '4px' : '1px',
        ...(content.kind === 'colour' ? { background: content.colour } : {}),
      },
    }
  }),
)
</script>

<template>
  <span class="thumb" :class="{ on }" :style="{ background: plate.background }" aria-hidden="true"
    ><i v-for="(box, at) in boxes" :key="at" :class="box.kind" :style="box.style"
  /></span>
</template>

<style scoped>
.thumb {
  display: block;
  position: relative;
  aspect-ratio: 16/9;
  border: 2px solid var(--line);
  border-radius: 9px;
  overflow: hidden;
}
.thumb.on {
  border: 3px solid var(--lapis);
}
i {
  position: absolute;
  border: 1px solid #cfc6b3;
  background: #fff;
}
.face {
  background: #bfd0c6;
}
.feed {
  background: #d9e0ee;
}
.caption {
  background: #6f7687;
  border: 0;
  transform: scaleY(0.45);
}
.frame {
  background: none;
  border: 2px solid var(--lapis);
}
</style>
