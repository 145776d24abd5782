<script setup lang="ts">
defineProps<{ live?: boolean }>()
</script>

<template>
  <div class="cartouche" :class="{ live }"><slot /></div>
</template>

<style scoped>
.cartouche {
  position: relative;
  margin-right: 13px;
  padding: 7px;
  border: 2px solid var(--stone);
  border-radius: 22px;
  background: var(--sheet);
  box-shadow:
    inset 0 0 0 2px var(--sheet),
    inset 0 0 0 3px #d9d1bf;
}
.cartouche::after {
  content: '';
  position: absolute;
  right: -13px;
  top: 26px;
  bottom: 26px;
  width: 6px;
  border-radius: 3px;
  border: 1.5px solid var(--stone);
}
.cartouche.live {
  border-color: var(--lapis);
  box-shadow:
    inset 0 0 0 2px var(--sheet),
    inset 0 0 0 3.5px var(--lapis);
}
.cartouche.live::after {
  border-color: var(--lapis);
  background: var(--lapis);
}
.cartouche :deep(.surface) {
  border-radius: 14px;
}
</style>
