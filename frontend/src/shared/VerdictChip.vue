<script setup lang="ts">
defineProps<{ kind: 'holds' | 'look' | 'wrong' | 'unknown' }>()
const SIGNS = { holds: '✓', look: '◆', wrong: '✕', unknown: '–' }
</script>

<template>
  <span class="chip" :class="kind"
    ><span class="sign" aria-hidden="true">{{ SIGNS[kind] }}</span
    ><span><slot /></span
  ></span>
</template>

<style scoped>
.chip {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 2px 9px 2px 7px;
  border-radius: 7px;
  font-size: 13.5px;
  width: fit-content;
}
.chip :deep(a) {
  color: inherit;
  font-weight: 650;
}
.sign {
  font-weight: 800;
}
.holds {
  background: var(--malachite-tint);
  color: var(--malachite);
}
.look {
  background: var(--ochre-tint);
  color: var(--ochre);
}
.look .sign {
  font-size: 10px;
}
.wrong {
  background: var(--carnelian-tint);
  color: var(--carnelian);
}
.unknown {
  background: var(--paper);
  color: var(--soft);
}
</style>
