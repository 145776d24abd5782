<script setup lang="ts">
defineProps<{ rig: string }>()

/** Small line drawings, 48 x 40: the desk's edge is the line at the bottom, the page the slanted sheet on it. */
const PAGE = 'M14 35l4-5h13l4 5z'
const DRAWN: Record<string, string[]> = {
  'arm-own-side': [PAGE, 'M6 37V6h17', 'M20 6h7v5h-7z', 'M23.5 12v9', 'M33 20l3 6M30 26h6'],
  'arm-far-side': [PAGE, 'M42 37V6H25', 'M21 6h7v5h-7z', 'M24.5 12v9', 'M8 20l-3 6M5 26h6'],
  shelf: [PAGE, 'M5 37V12M43 37V12', 'M3 12h17M29 12h16', 'M18 8h13v4H18z', 'M24.5 14v9'],
  tripod: [PAGE, 'M38 10l-5 27M38 10l7 27M38 10v27', 'M32 5h9v5h-9z', 'M31 8l-8 14'],
  gooseneck: [PAGE, 'M42 37c0-14 2-26-8-27-5 0-6 3-6 6', 'M25 16h6v4h-6z', 'M27 21l-2 7'],
  'in-hand': [PAGE, 'M19 8h11v7H19z', 'M24.5 16v8', 'M30 11c6 0 8 2 14-3M30 14c5 3 9 3 14 1'],
  'clip-mirror': [
    'M12 37l4-6h17l4 6z',
    'M13 31V9h23v22',
    'M20 9l9-5 2 3-9 5z',
    'M25 12l-2 16M23 28l3-2M23 28l-2-3',
  ],
  'tablet-mirror': [PAGE, 'M30 34l7-24 6 2-6 24z', 'M34 10l6-5 3 3-6 5z', 'M36 12l-10 16M26 28l4-1M26 28v-4'],
  'at-face': ['M34 37V16', 'M30 9h8v7h-8z', 'M29 12l-8 3', 'M12 9a6 6 0 1 0 .1 0z', 'M3 34c1-9 17-9 18 0'],
  'as-it-is': ['M9 6h30v24H9z', 'M9 12h30', 'M12 9h1M16 9h1'],
}
</script>

<template>
  <svg viewBox="0 0 48 40" aria-hidden="true">
    <path v-for="(line, index) in DRAWN[rig] ?? []" :key="index" :d="line" />
    <path class="desk" d="M2 37.5h44" />
  </svg>
</template>

<style scoped>
svg {
  width: 58px;
  height: 48px;
  flex: none;
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.7;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.desk {
  stroke: var(--stone);
}
</style>
