<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useReady } from '@/ready/ready'
import { useLive } from '@/shared/live'
import { useOutgoing } from '@/shared/outgoing'
import LessonForm, { type Draft } from './LessonForm.vue'
import LessonRow from './LessonRow.vue'
import { useLessons, type Lesson } from './lessons'

const live = useLive()
const router = useRouter()
const outgoing = useOutgoing()
const ready = useReady()
const lessons = useLessons()
const { view, byId, deleted } = lessons
const editing = ref<Lesson | 'new' | null>(null)
const copying = ref<Lesson | null>(null)
const copyFor = ref('')
const file = ref<HTMLInputElement>()
const CHECK_EVERY_MS = 2000

const empty = computed(() => view.value !== null && !view.value.lessons.length)
const day = computed(() =>
  new Date().toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' }),
)
/** What every row shows, and what its presses do, whichever day it stands under. */
const shown = (lesson: Lesson) => ({
  lesson,
  kit: lesson.kit_id ? view.value?.kits[lesson.kit_id] : undefined,
  isOpen: lesson.id === view.value?.open_id,
  ready: ready.view?.summary ?? live.state?.ready ?? null,
})
const presses = (lesson: Lesson) => ({
  teach,
  open: () => lessons.open(lesson.id),
  look: () => router.push('/ready'),
  change: () => (editing.value = lesson),
  copy: () => askCopy(lesson),
  remove: () => lessons.remove(lesson),
})
const today = computed(() =>
  (view.value?.today ?? []).flatMap((one) => {
    const lesson = byId.value.get(one.lesson_id)
    return lesson ? [{ ...one, lesson }] : []
  }),
)
const others = computed(() =>
  (view.value?.others ?? []).flatMap((one) => {
    const lesson = byId.value.get(one.lesson_id)
    return lesson ? [{ ...one, lesson }] : []
  }),
)
const dayOf = (date: string | null) =>
  date === null
    ? 'over'
    : new Date(`${date}T12:00`).toLocaleDateString('en-GB', {
        weekday: 'short',
        day: 'numeric',
        month: 'short',
      })

// what is only measured for the check is measured while home is looked at, too
useIntervalFn(
  () => {
    if (view.value?.open_id && !document.hidden) void ready.again()
  },
  CHECK_EVERY_MS,
  { immediateCallback: true },
)

/** The lesson goes out: by whoever takes it already, else by the outgoing window. */
function teach() {
  const taken = (live.state?.outgoing.windows ?? 0) > 0 || !!live.state?.outgoing.taken_by
  if (!taken && !view.value?.by_extension) outgoing.open()
  void router.push('/teach')
}
async function keep(draft: Draft) {
  const lesson = editing.value
  const kept = lesson && lesson !== 'new' ? await lessons.change(lesson, draft) : await lessons.add(draft)
  if (kept) editing.value = null
}
function askCopy(lesson: Lesson) {
  copying.value = lesson
  copyFor.value = ''
}
async function copy() {
  const [lesson, className] = [copying.value, copyFor.value.trim()]
  if (lesson && className && (await lessons.copy(lesson, className))) copying.value = null
}
async function take(event: Event) {
  const input = event.target as HTMLInputElement
  const chosen = input.files?.[0]
  input.value = ''
  if (chosen) await lessons.timetable(chosen)
}
</script>

<template>
  <main class="screen lessons">
    <section v-if="empty" class="card first" aria-label="Begin">
      <h1>Show your page in a call</h1>
      <p>
        Lay a page under a camera or a phone. Cartouche finds it, turns it the right way round, makes it
        straight, and puts you beside it.
      </p>
      <Button type="primary" size="large" @click="router.push('/first')">Show my page</Button>
    </section>
    <template v-else>
      <div class="head">
        <h1>Today, {{ day }}</h1>
        <span class="row">
          <Button @click="file?.click()">Bring in a timetable</Button>
          <Button @click="editing = 'new'">Add a lesson</Button>
        </span>
      </div>
      <p v-if="deleted" class="card deleted" role="status">
        “{{ deleted.title }} · {{ deleted.class_name }}” is deleted.
        <Button size="small" @click="lessons.bringBack(deleted)">Undo</Button>
      </p>
      <ol>
        <LessonRow
          v-for="one in today"
          :key="`${one.lesson_id} ${one.starts}`"
          :when="one.starts"
          :over="one.over"
          v-bind="shown(one.lesson)"
          v-on="presses(one.lesson)"
        />
      </ol>
      <p v-if="view && !today.length" class="soft none">No lesson takes place today.</p>
      <details v-if="others.length" :open="!today.length">
        <summary>Other days: {{ others.length }}</summary>
        <ol>
          <LessonRow
            v-for="one in others"
            :key="one.lesson_id"
            :when="one.day ? `${dayOf(one.day)} ${one.starts}` : 'over'"
            :over="one.day === null"
            v-bind="shown(one.lesson)"
            v-on="presses(one.lesson)"
          />
        </ol>
      </details>
    </template>
    <p v-if="empty && deleted" class="card deleted" role="status">
      “{{ deleted.title }} · {{ deleted.class_name }}” is deleted.
      <Button size="small" @click="lessons.bringBack(deleted)">Undo</Button>
    </p>
    <p v-if="empty" class="also soft">
      <Button type="link" @click="file?.click()">Bring in a timetable</Button>
      <Button type="link" @click="editing = 'new'">Add a lesson</Button>
      <Button type="link" @click="router.push('/kit')">Choose my cameras by hand</Button>
    </p>
    <input
      ref="file"
      type="file"
      accept=".ics,text/calendar"
      hidden
      aria-label="A timetable file"
      @change="take"
    />
    <LessonForm :lesson="editing" @keep="keep" @close="editing = null" />
    <Modal
      :open="copying !== null"
      title="Copy for another class"
      ok-text="Copy it"
      cancel-text="Not now"
      :ok-button-props="{ disabled: !copyFor.trim() }"
      @ok="copy"
      @cancel="copying = null"
    >
      <form @submit.prevent="copy">
        <label>Class <Input v-model:value="copyFor" :maxlength="60" /></label>
        <p class="soft">Cameras, plates and times are the same; each is changed on its own from then on.</p>
      </form>
    </Modal>
  </main>
</template>

<style scoped>
.lessons {
  max-width: 1080px;
  width: 100%;
  margin: 0 auto;
  overflow: auto;
}
.head,
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px;
}
.head {
  margin: 10px 0 14px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
.first {
  display: grid;
  gap: 14px;
  justify-items: start;
  padding: 40px 44px;
  margin-top: 60px;
}
.first h1 {
  font-size: 26px;
}
.first p {
  margin: 0;
  font-size: 18px;
  max-width: 56ch;
}
.also {
  margin-top: 14px;
}
.deleted {
  padding: 8px 14px;
  margin-bottom: 12px;
  display: flex;
  gap: 16px;
  align-items: center;
  justify-content: space-between;
}
.none {
  margin: 14px 2px;
}
details {
  margin-top: 20px;
}
summary {
  cursor: pointer;
  margin-bottom: 12px;
  font-weight: 650;
}
</style>
