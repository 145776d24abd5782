<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import type { Lesson } from './lessons'

const props = defineProps<{
  lesson: Lesson
  when: string
  kit: Schemas['Kit'] | undefined
  isOpen: boolean
  over: boolean
  ready: Schemas['SummaryView'] | null
}>()
defineEmits<{ teach: []; open: []; change: []; copy: []; remove: []; look: [] }>()
const name = computed(() => `${props.lesson.title} ${props.lesson.class_name}`)
</script>

<template>
  <li class="card" :class="{ open: isOpen, over }">
    <span class="num starts">{{ when }}</span>
    <div class="what">
      <h2>
        {{ lesson.title }} <span class="soft">· {{ lesson.class_name }}</span>
      </h2>
      <p class="soft">
        <template v-if="kit">{{ kit.room }} · {{ kit.name }}</template>
        <template v-else>No cameras yet</template>
      </p>
      <p v-if="isOpen && ready" class="ready">
        <VerdictChip :kind="ready.verdict">{{ ready.says }}</VerdictChip>
      </p>
    </div>
    <span class="quiet">
      <Button size="small" type="text" :aria-label="`Change: ${name}`" @click="$emit('change')"
        >Change</Button
      >
      <Button size="small" type="text" :aria-label="`Copy: ${name}`" @click="$emit('copy')">Copy</Button>
      <Button size="small" type="text" :aria-label="`Delete: ${name}`" @click="$emit('remove')"
        >Delete</Button
      >
    </span>
    <Button v-if="isOpen" :aria-label="`Check: ${name}`" @click="$emit('look')">Check</Button>
    <Button
      :type="isOpen ? 'primary' : 'default'"
      :aria-label="`${isOpen ? 'Teach this lesson' : 'Open'}: ${name}`"
      @click="isOpen ? $emit('teach') : $emit('open')"
      >{{ isOpen ? 'Teach this lesson' : 'Open' }}</Button
    >
  </li>
</template>

<style scoped>
li.card {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px 16px;
  padding: 14px 18px;
}
li.open {
  border-color: var(--lapis);
  box-shadow: inset 0 0 0 1px var(--lapis);
}
.over .starts,
.over h2 {
  color: var(--soft);
}
.starts {
  font-size: 19px;
  min-width: 84px;
}
.what {
  flex: 1 1 240px;
  min-width: 0;
  overflow-wrap: anywhere;
}
.what h2 {
  font-size: 17px;
}
.what p {
  margin: 0;
}
.ready {
  padding-top: 6px;
}
.quiet {
  display: flex;
  color: var(--soft);
}
</style>
