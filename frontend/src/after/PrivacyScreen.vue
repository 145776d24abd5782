<script setup lang="ts">
import { Button, InputNumber, Popconfirm } from 'ant-design-vue'
import { onMounted, shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { megabytes } from './says'
import { at } from '@/shared/at'

/** What is kept, where, how large, since when; deleting it for good; taking it along. */
const sentences = useSentences()
const view = shallowRef<Schemas['PrivacyView'] | null>(null)
type Kind = 'sheets' | 'recordings' | 'ink'
const WORDS: Record<Kind, string> = { sheets: 'Sheets', recordings: 'Recordings', ink: 'Ink' }

async function take(work: () => Promise<Schemas['PrivacyView']>) {
  view.value = (await sentences.attempt(work)) ?? view.value
}
onMounted(() => take(() => answer(api.GET('/api/privacy'))))
const remove = (lessonId: string, kind: Kind) =>
  take(() =>
    answer(
      api.DELETE('/api/privacy/lessons/{lesson_id}/{kind}', {
        params: { path: { lesson_id: lessonId, kind } },
      }),
    ),
  )
const keep = (weeks: number | null) => take(() => answer(api.PUT('/api/privacy/weeks', { body: { weeks } })))
const since = (at?: number | null) =>
  at
    ? new Date(at * 1000).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
    : ''
</script>

<template>
  <main v-if="view" class="screen privacy">
    <h1>What is kept</h1>
    <p>
      Everything lies on this computer, in <b class="path">{{ view.folder }}</b>. Nothing leaves it except
      what you send. What stands on sheets is read here too, so that they are found. Learners’ pictures and
      voices are never kept.
    </p>
    <p v-if="view.due.length" class="due" role="status">
      {{ view.due.length === 1 ? 'One lesson is' : `${view.due.length} lessons are` }} kept longer than
      {{ view.weeks }} weeks. Is it still needed?
    </p>
    <div v-if="view.lessons.length" class="card">
      <table>
        <thead>
          <tr>
            <th>Lesson</th>
            <th>What</th>
            <th>How much</th>
            <th>Since</th>
            <th><span class="hidden">Delete</span></th>
          </tr>
        </thead>
        <tbody v-for="lesson in view.lessons" :key="lesson.lesson_id">
          <tr v-for="(one, index) in lesson.kinds" :key="one.kind">
            <td>
              <template v-if="index === 0"
                >{{ lesson.title }} <span class="soft">· {{ lesson.class_name }}</span></template
              >
            </td>
            <td>
              {{ WORDS[one.kind] }} <span class="soft num">{{ one.count }}</span>
            </td>
            <td class="num">{{ one.bytes ? megabytes(one.bytes) : '' }}</td>
            <td :class="{ late: view.due.includes(lesson.lesson_id) }">{{ since(one.since) }}</td>
            <td>
              <Popconfirm
                title="Deleted for good: no copy stays here."
                ok-text="Delete for good"
                @confirm="remove(lesson.lesson_id, one.kind)"
                ><Button
                  size="small"
                  danger
                  :aria-label="`Delete ${one.kind} of ${lesson.title} ${lesson.class_name}`"
                  >Delete</Button
                ></Popconfirm
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-else class="soft">No sheet, recording or ink is kept.</p>
    <div class="card row" role="group" aria-label="How long">
      <label
        >Ask after
        <InputNumber
          :value="view.weeks ?? undefined"
          :min="1"
          :max="520"
          aria-label="Weeks"
          placeholder="–"
          @change="(weeks: unknown) => keep(typeof weeks === 'number' ? weeks : null)"
        />
        weeks whether it is still needed</label
      >
      <Button v-if="view.weeks" size="small" @click="keep(null)">Never ask</Button>
      <span class="fill" />
      <span class="soft num">Database {{ megabytes(view.database) }} · {{ megabytes(view.free) }} free</span>
      <Button :href="at('/api/privacy/export.zip')" download>Save everything as open files (ZIP)</Button>
    </div>
  </main>
</template>

<style scoped>
.privacy {
  display: flex;
  flex-direction: column;
  gap: 14px;
  overflow: auto;
}
h1 {
  font-size: 20px;
}
.path {
  overflow-wrap: anywhere;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 9px 14px;
  border-bottom: 1px solid var(--line);
}
.row {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 12px 14px;
  flex-wrap: wrap;
}
.row label {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
tbody:last-child tr:last-child td {
  border-bottom: 0;
}
.fill {
  flex: 1;
}
.late,
.due {
  color: var(--ochre);
}
.hidden {
  position: absolute;
  clip-path: inset(50%);
}
</style>
