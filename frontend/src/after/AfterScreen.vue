<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { ref } from 'vue'
import EmptyScreen from '@/shared/EmptyScreen.vue'
import { useAfter } from './after'
import HandoutBar from './HandoutBar.vue'
import RecordingCard from './RecordingCard.vue'
import { day } from './says'
import SheetGrid from './SheetGrid.vue'

/** What is left of the lessons: sheets, handout, recordings. */
const { view, words, chosen, held, ask, move } = useAfter()
const heard = ref<{ recording: string; at: number } | null>(null)

function hear(sheetId: string) {
  for (const one of held.value?.recordings ?? []) {
    const chapter = one.chapters.find((known) => known.sheet_id === sheetId)
    if (chapter) return (heard.value = { recording: one.id, at: chapter.from_s })
  }
}
const isHeard = (sheetId: string) =>
  !!held.value?.recordings.some((one) => one.chapters.some((chapter) => chapter.sheet_id === sheetId))
</script>

<template>
  <main v-if="view && !view.lessons.length && !view.looked_for" class="screen">
    <EmptyScreen
      title="After"
      says="Sheets that you keep and recordings of your lessons stand here, with a handout that writes itself. Nothing is kept yet."
      press="Teach"
      to="/teach"
    />
  </main>
  <main v-else-if="view" class="screen after">
    <aside aria-label="Lessons held">
      <Input
        v-model:value="words"
        allow-clear
        aria-label="Find a lesson"
        placeholder="Find by title, class, date, sheet"
      />
      <p v-if="view.looked_for && !view.lessons.length" class="soft" role="status">
        Nothing has “{{ view.looked_for }}” in it.
      </p>
      <div v-roving role="group" aria-label="Lessons">
        <button
          v-for="one in view.lessons"
          :key="one.lesson_id"
          :class="{ on: one.lesson_id === held?.lesson_id }"
          :aria-pressed="one.lesson_id === held?.lesson_id"
          @click="chosen = one.lesson_id"
        >
          <b>{{ one.title }}</b>
          <span class="soft">{{ one.class_name }} · {{ day(one.day) }}</span>
          <span class="soft num"
            >{{ one.sheets.length }} {{ one.sheets.length === 1 ? 'sheet' : 'sheets' }} ·
            {{ one.recordings.length }}
            {{ one.recordings.length === 1 ? 'recording' : 'recordings' }}</span
          >
        </button>
      </div>
      <RouterLink to="/privacy">What is kept, and where</RouterLink>
    </aside>
    <section v-if="held" class="held" :aria-label="held.title">
      <h1>
        {{ held.title }} <span class="soft">· {{ held.class_name }} · {{ day(held.day) }}</span>
      </h1>
      <HandoutBar :held="held" />
      <SheetGrid :held="held" :ask="ask" :is-heard="isHeard" @hear="hear" @move="move" />
      <RecordingCard
        v-for="one in held.recordings"
        :key="one.id"
        :recording="one"
        :ask="ask"
        :go-to="heard?.recording === one.id ? heard : null"
      />
    </section>
  </main>
</template>

<style scoped>
.after {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 22px;
}
aside,
.held {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
  overflow: auto;
}
aside button {
  appearance: none;
  display: grid;
  gap: 2px;
  width: 100%;
  padding: 10px 12px;
  margin-bottom: 8px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  font: inherit;
  font-size: 14.5px;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}
aside button.on {
  border-color: var(--lapis);
  background: var(--lapis-tint);
}
h1 {
  font-size: 19px;
}
h1 .soft {
  font-size: 15px;
  font-weight: 400;
}
</style>
