<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, answer, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import VerdictChip from '@/shared/VerdictChip.vue'

const live = useLive()
const sentences = useSentences()
const router = useRouter()
const view = ref<Schemas['LessonsView'] | null>(null)
const adding = ref(false)
const draft = reactive({ title: '', class_name: '', starts: '09:00' })

async function load() {
  view.value = (await sentences.attempt(() => answer(api.GET('/api/lessons')))) ?? view.value
}
onMounted(load)
watch(() => live.connected, load)

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

async function add() {
  const made = await sentences.attempt(() => answer(api.POST('/api/lessons', { body: { ...draft } })))
  if (!made) return
  adding.value = false
  draft.title = draft.class_name = ''
  await load()
}
</script>

<template>
  <main class="screen lessons">
    <div class="head">
      <h1>Today’s lessons</h1>
      <Button @click="adding = true">Add a lesson</Button>
    </div>
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
          <p class="soft">{{ view?.kits[lesson.kit_id]?.room }} · {{ view?.kits[lesson.kit_id]?.name }}</p>
          <VerdictChip
            v-if="lesson.id === view?.open_id"
            :kind="live.pageDevice && live.faceDevice ? 'holds' : 'look'"
            >{{ kitSays }}</VerdictChip
          >
        </div>
        <Button @click="open(lesson.id, '/kit')">See the cameras</Button>
        <Button
          :type="lesson.id === view?.open_id ? 'primary' : 'default'"
          :aria-label="`${lesson.id === view?.open_id ? 'Teach this lesson' : 'Open'}: ${lesson.title} ${lesson.class_name}`"
          @click="open(lesson.id, '/teach')"
          >{{ lesson.id === view?.open_id ? 'Teach this lesson' : 'Open' }}</Button
        >
      </li>
    </ol>
    <p v-if="view && !view.lessons.length" class="soft">
      No lesson is kept here yet. Start Cartouche with the demo lesson to look round.
    </p>
    <section class="way card">
      <h2>Before you go in</h2>
      <ol>
        <li><b>Kit</b><span>Is every camera alive, and is it the right one?</span></li>
        <li><b>Square up</b><span>Is the page straight and the right way round?</span></li>
        <li><b>Teach</b><span>Start the call and look through your learners’ eyes.</span></li>
      </ol>
    </section>
    <Modal v-model:open="adding" title="Add a lesson" ok-text="Add it" cancel-text="Not now" @ok="add">
      <div class="draft">
        <label>What it is about <Input v-model:value="draft.title" :maxlength="60" /></label>
        <label>Class <Input v-model:value="draft.class_name" :maxlength="60" /></label>
        <label>Begins at <Input v-model:value="draft.starts" type="time" /></label>
      </div>
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
  grid-template-columns: 84px 1fr auto auto;
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
