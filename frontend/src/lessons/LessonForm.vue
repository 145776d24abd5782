<script setup lang="ts">
import { Input, Modal } from 'ant-design-vue'
import { computed, reactive, watch } from 'vue'
import type { Schemas } from '@/api/client'

type Lesson = Schemas['Lesson']
export type Draft = Schemas['NewLesson']

/** A lesson's title, class and times. */
const props = defineProps<{ lesson: Lesson | 'new' | null }>()
const emit = defineEmits<{ keep: [draft: Draft]; close: [] }>()
const draft = reactive({
  title: '',
  class_name: '',
  starts: '09:00',
  minutes: 45,
  when: 'any' as 'any' | 'once' | 'weekly',
  day: '',
})
const complete = computed(
  () =>
    !!draft.title.trim() &&
    !!draft.class_name.trim() &&
    !!draft.starts &&
    draft.minutes >= 5 &&
    (draft.when === 'any' || !!draft.day),
)
const fromCalendar = computed(() => props.lesson && props.lesson !== 'new' && !!props.lesson.calendar_uid)
const today = () => {
  const now = new Date()
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 10)
}
watch(
  () => props.lesson,
  (lesson) => {
    if (!lesson) return
    const starts = new Date().toTimeString().slice(0, 5)
    const known = lesson === 'new' ? null : lesson
    Object.assign(draft, {
      title: known?.title ?? '',
      class_name: known?.class_name ?? '',
      starts: known?.starts ?? starts,
      minutes: known?.minutes ?? 45,
      when: known?.day ? (known.weekly ? 'weekly' : 'once') : 'any',
      day: known?.day ?? today(),
    })
  },
  { immediate: true },
)
function keep() {
  if (!complete.value) return
  emit('keep', {
    title: draft.title.trim(),
    class_name: draft.class_name.trim(),
    starts: draft.starts,
    minutes: draft.minutes,
    day: draft.when === 'any' ? null : draft.day,
    weekly: draft.when === 'weekly',
  })
}
</script>

<template>
  <Modal
    :open="lesson !== null"
    :title="lesson === 'new' ? 'Add a lesson' : 'Change this lesson'"
    :ok-text="lesson === 'new' ? 'Add it' : 'Keep it'"
    cancel-text="Not now"
    :ok-button-props="{ disabled: !complete }"
    @ok="keep"
    @cancel="emit('close')"
  >
    <form class="draft" @submit.prevent="keep">
      <label>What it is about <Input v-model:value="draft.title" :maxlength="60" /></label>
      <label>Class <Input v-model:value="draft.class_name" :maxlength="60" /></label>
      <p v-if="fromCalendar" class="soft">Its dates come from your timetable.</p>
      <template v-else>
        <label
          >When
          <select v-model="draft.when">
            <option value="any">Any day</option>
            <option value="once">On one date</option>
            <option value="weekly">Every week</option>
          </select></label
        >
        <label v-if="draft.when !== 'any'"
          >{{ draft.when === 'weekly' ? 'First on' : 'Date' }} <Input v-model:value="draft.day" type="date"
        /></label>
        <div class="pair">
          <label>Begins at <Input v-model:value="draft.starts" type="time" /></label>
          <label
            >Minutes <input v-model.number="draft.minutes" type="number" min="5" max="600" step="5"
          /></label>
        </div>
      </template>
      <button type="submit" hidden>Keep</button>
    </form>
  </Modal>
</template>

<style scoped>
.draft {
  display: grid;
  gap: 12px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
select,
input[type='number'] {
  display: block;
  width: 100%;
  min-height: 36px;
  padding: 0 11px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
p {
  margin: 0;
}
</style>
