<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, answer, type Schemas } from '@/api/client'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import VerdictChip from '@/shared/VerdictChip.vue'

type Lesson = Schemas['Lesson']

const live = useLive()
const sentences = useSentences()
const router = useRouter()
const view = ref<Schemas['LessonsView'] | null>(null)
const editing = ref<Lesson | 'new' | null>(null)
const deleted = ref<Lesson | null>(null)
const draft = reactive({ title: '', class_name: '', starts: '09:00' })
const complete = computed(() => !!draft.title.trim() && !!draft.class_name.trim() && !!draft.starts)

const looked = useFetched(
  () => live.signature('lesson', 'kit'),
  () => live.state,
  () => answer(api.GET('/api/lessons')),
  (next) => (view.value = next),
)

const kitOf = (lesson: Lesson) => (lesson.kit_id ? view.value?.kits[lesson.kit_id] : undefined)
const kitSays = computed(() => {
  if (!live.pageDevice || !live.faceDevice) return 'Page or face has no camera yet'
  return `${live.pageDevice.name} for the page, ${live.faceDevice.name} for the face`
})

async function open(lessonId: string, to: string) {
  const opened = await sentences.attempt(() =>
    answer(api.PUT('/api/lessons/open', { body: { lesson_id: lessonId } })),
  )
  if (opened) await router.push(to)
}

function edit(lesson: Lesson | 'new') {
  editing.value = lesson
  const now = new Date().toTimeString().slice(0, 5)
  const before = lesson === 'new' ? { title: '', class_name: '', starts: now } : lesson
  Object.assign(draft, { title: before.title, class_name: before.class_name, starts: before.starts })
}
async function keep() {
  if (!complete.value) return
  const body = { title: draft.title.trim(), class_name: draft.class_name.trim(), starts: draft.starts }
  const lesson = editing.value
  const kept = await sentences.attempt(() =>
    answer(
      lesson === 'new' || !lesson
        ? api.POST('/api/lessons', { body })
        : api.PATCH('/api/lessons/{lesson_id}', { params: { path: { lesson_id: lesson.id } }, body }),
    ),
  )
  if (!kept) return
  editing.value = null
  await looked.again()
}
async function remove(lesson: Lesson) {
  const params = { path: { lesson_id: lesson.id } }
  await sentences.attempt(async () => {
    await answer(api.DELETE('/api/lessons/{lesson_id}', { params }))
    deleted.value = lesson
  })
  await looked.again()
}
async function bringBack(lesson: Lesson) {
  const params = { path: { lesson_id: lesson.id } }
  if (await sentences.attempt(() => answer(api.POST('/api/lessons/{lesson_id}/restore', { params }))))
    deleted.value = null
  await looked.again()
}
</script>

<template>
  <main class="screen lessons">
    <div class="head">
      <h1>Today’s lessons</h1>
      <Button @click="edit('new')">Add a lesson</Button>
    </div>
    <p v-if="deleted" class="card deleted" role="status">
      “{{ deleted.title }} · {{ deleted.class_name }}” is deleted.
      <Button size="small" @click="bringBack(deleted)">Undo</Button>
    </p>
    <ol>
      <li
        v-for="lesson in view?.lessons ?? []"
        :key="lesson.id"
        class="card"
        :class="{ open: lesson.id === view?.open_id }"
      >
        <span class="num starts">{{ lesson.starts }}</span>
        <div class="what">
          <h2>
            {{ lesson.title }} <span class="soft">· {{ lesson.class_name }}</span>
          </h2>
          <p class="soft">
            <template v-if="kitOf(lesson)">{{ kitOf(lesson)!.room }} · {{ kitOf(lesson)!.name }}</template>
            <template v-else>No cameras yet</template>
          </p>
          <VerdictChip
            v-if="lesson.id === view?.open_id"
            :kind="live.pageDevice && live.faceDevice ? 'holds' : 'look'"
            >{{ kitSays }}</VerdictChip
          >
        </div>
        <span class="quiet">
          <Button
            size="small"
            type="text"
            :aria-label="`Rename: ${lesson.title} ${lesson.class_name}`"
            @click="edit(lesson)"
            >Rename</Button
          >
          <Button
            size="small"
            type="text"
            :aria-label="`Delete: ${lesson.title} ${lesson.class_name}`"
            @click="remove(lesson)"
            >Delete</Button
          >
        </span>
        <Button @click="open(lesson.id, '/kit')">Check kit</Button>
        <Button
          :type="lesson.id === view?.open_id ? 'primary' : 'default'"
          :aria-label="`${lesson.id === view?.open_id ? 'Teach this lesson' : 'Open'}: ${lesson.title} ${lesson.class_name}`"
          @click="open(lesson.id, '/teach')"
          >{{ lesson.id === view?.open_id ? 'Teach this lesson' : 'Open' }}</Button
        >
      </li>
    </ol>
    <section v-if="view && !view.lessons.length" class="card first">
      <p>No lessons yet. Bring in a camera or a phone: a first lesson comes by itself, to be named later.</p>
      <Button type="primary" size="large" @click="router.push('/kit')">Choose my cameras</Button>
    </section>
    <section class="way card">
      <h2>Before the lesson</h2>
      <ol>
        <li><b>Kit</b><span>Is every camera alive, and is it the right one?</span></li>
        <li><b>Square up</b><span>Is the page straight and the right way round?</span></li>
        <li><b>Teach</b><span>Start the practice call and look through your learners’ eyes.</span></li>
      </ol>
    </section>
    <Modal
      :open="editing !== null"
      :title="editing === 'new' ? 'Add a lesson' : 'Rename this lesson'"
      :ok-text="editing === 'new' ? 'Add it' : 'Rename it'"
      cancel-text="Not now"
      :ok-button-props="{ disabled: !complete }"
      @ok="keep"
      @cancel="editing = null"
    >
      <form class="draft" @submit.prevent="keep">
        <label>What it is about <Input v-model:value="draft.title" :maxlength="60" /></label>
        <label>Class <Input v-model:value="draft.class_name" :maxlength="60" /></label>
        <label>Begins at <Input v-model:value="draft.starts" type="time" /></label>
        <button type="submit" hidden>Keep</button>
      </form>
    </Modal>
  </main>
</template>

<style scoped>
.lessons {
  max-width: 980px;
  width: 100%;
  margin: 0 auto;
  overflow: auto;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin: 10px 0 14px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
li.card {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr) auto auto auto;
  align-items: center;
  gap: 16px;
  padding: 16px 18px;
}
li.open {
  border-color: var(--lapis);
  box-shadow: inset 0 0 0 1px var(--lapis);
}
.starts {
  font-size: 21px;
}
.what h2 {
  font-size: 17px;
}
.what .chip {
  margin-top: 6px;
}
.draft {
  display: grid;
  gap: 12px;
}
.what {
  overflow-wrap: anywhere;
}
.quiet {
  display: flex;
  color: var(--soft);
}
.first,
.deleted {
  padding: 18px;
  display: flex;
  gap: 16px;
  align-items: center;
  justify-content: space-between;
}
.deleted {
  padding: 8px 14px;
  margin-bottom: 12px;
}
.way {
  margin-top: 22px;
  padding: 16px 18px;
  background: none;
}
.way ol {
  grid-template-columns: repeat(3, 1fr);
  margin-top: 10px;
}
.way li {
  display: grid;
  gap: 2px;
}
</style>
