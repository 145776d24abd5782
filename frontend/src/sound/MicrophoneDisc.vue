<script setup lang="ts">
import { computed } from 'vue'

const FLOOR_DB = -60
const ROUND = 2 * Math.PI * 22
const props = defineProps<{ label: string; open: boolean; levelDb?: number }>()
const level = computed(() => Math.max(FLOOR_DB, Math.min(0, props.levelDb ?? FLOOR_DB)))
const rim = computed(() => (ROUND * (level.value - FLOOR_DB)) / -FLOOR_DB)
</script>

<!-- An open microphone is a filled disc, a closed one an empty ring; the level runs round as a rim. -->
<template>
  <div
    class="disc"
    role="meter"
    :aria-label="`Level of ${label}`"
    aria-valuemin="-60"
    aria-valuemax="0"
    :aria-valuenow="Math.round(level)"
    :aria-valuetext="`${Math.round(level)} dB, ${open ? 'open' : 'closed'}`"
  >
    <svg viewBox="0 0 56 56" width="56" height="56" aria-hidden="true">
      <circle class="track" cx="28" cy="28" r="22" />
      <circle
        class="rim"
        cx="28"
        cy="28"
        r="22"
        :stroke-dasharray="`${rim} ${ROUND}`"
        transform="rotate(-90 28 28)"
      />
      <circle :class="open ? 'open' : 'closed'" cx="28" cy="28" r="13" />
    </svg>
    <span>{{ open ? 'Open' : 'Closed' }}</span>
  </div>
</template>

<style scoped>
.disc {
  display: grid;
  justify-items: center;
  font-size: 12.5px;
  color: var(--soft);
}
circle {
  fill: none;
}
.track {
  stroke: var(--line);
  stroke-width: 5;
}
.rim {
  stroke: var(--malachite);
  stroke-width: 5;
}
.open {
  fill: var(--lapis);
}
.closed {
  stroke: var(--stone);
  stroke-width: 2;
}
</style>
