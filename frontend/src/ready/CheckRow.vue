<script setup lang="ts">
import { Button } from 'ant-design-vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import { PRESSES, WORDS, type Check } from './ready'

defineProps<{ check: Check; busy: boolean; first: boolean }>()
const emit = defineEmits<{ mend: [] }>()
</script>

<template>
  <li :data-check="check.id" :aria-label="check.title">
    <VerdictChip :kind="check.verdict">{{ WORDS[check.verdict] }}</VerdictChip>
    <div class="what">
      <b>{{ check.title }}</b>
      <span>{{ check.says }}</span>
    </div>
    <span class="num value">{{ check.value || '–' }}</span>
    <span class="soft limit">{{ check.limit }}</span>
    <span class="press">
      <Button
        v-if="check.press"
        size="small"
        :type="first ? 'primary' : 'default'"
        :loading="busy"
        @click="emit('mend')"
        >{{ PRESSES[check.press] }}</Button
      >
    </span>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 122px minmax(0, 2.5fr) minmax(0, 1fr) minmax(0, 1fr) 152px;
  align-items: center;
  gap: 12px;
  min-height: 46px;
  padding: 5px 14px;
  border-top: 1px solid var(--line);
}
li:first-child {
  border-top: 0;
}
.what {
  display: grid;
  font-size: 14.5px;
}
.value,
.limit {
  font-size: 13.5px;
  overflow-wrap: anywhere;
}
.press {
  justify-self: end;
}
@media (max-width: 1180px) {
  li {
    grid-template-columns: 116px minmax(0, 1.6fr) minmax(0, 1fr) auto;
  }
  .limit {
    display: none;
  }
}
</style>
