<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { onMounted, ref, shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { useMend } from './mend'
import { PRESSES, type Press } from './ready'

type Id = Schemas['SymptomView']['id']

const sentences = useSentences()
const { mend } = useMend()
const symptoms = shallowRef<Schemas['SymptomView'][]>([])
const chosen = ref<Id | null>(null)
const answers = ref<[string, string][]>([])
const step = shallowRef<Schemas['WalkView'] | null>(null)

onMounted(async () => {
  symptoms.value = (await sentences.attempt(() => answer(api.GET('/api/ready/symptoms')))) ?? []
})
async function look() {
  if (!chosen.value) return
  const body = { symptom: chosen.value, answers: Object.fromEntries(answers.value) }
  step.value = (await sentences.attempt(() => answer(api.POST('/api/ready/walk', { body })))) ?? step.value
}
async function begin(id: Id) {
  chosen.value = id
  answers.value = []
  await look()
}
async function choose(choice: string) {
  const question = step.value?.question
  if (!question) return
  answers.value = [...answers.value, [question.id, choice]]
  await look()
}
/** One answer back; from the first question to the six symptoms. */
async function back() {
  if (answers.value.length) {
    answers.value = answers.value.slice(0, -1)
    return look()
  }
  chosen.value = step.value = null
}
async function copy(report: string) {
  try {
    await navigator.clipboard.writeText(report)
    sentences.say('Copied. It holds no picture and no names of learners.')
  } catch {
    sentences.say('The browser does not let it be copied: print it instead.')
  }
}
function print() {
  window.print() // the report alone: see the style at the end
}
async function end(found: Schemas['EndView']) {
  await mend({ id: 'walk', title: '', verdict: 'look', value: '', limit: '', ...found })
}
</script>

<template>
  <section class="card" aria-label="Something is wrong" aria-live="polite">
    <h2>{{ step ? step.says : 'Something is wrong?' }}</h2>
    <div v-if="!step" class="six">
      <Button v-for="one in symptoms" :key="one.id" @click="begin(one.id)">{{ one.says }}</Button>
    </div>
    <template v-else>
      <details v-if="step.ruled_out.length">
        <summary class="soft">Ruled out by what is measured: {{ step.ruled_out.length }}</summary>
        <ul>
          <li v-for="one in step.ruled_out" :key="one">{{ one }}</li>
        </ul>
      </details>
      <template v-if="step.question">
        <p class="asks">{{ step.question.asks }}</p>
        <div class="six">
          <Button v-for="one in step.question.choices" :key="one.id" @click="choose(one.id)">{{
            one.says
          }}</Button>
        </div>
      </template>
      <template v-if="step.end">
        <p class="asks">{{ step.end.says }}</p>
        <div class="row">
          <Button v-if="step.end.press" type="primary" @click="end(step.end)">{{
            PRESSES[step.end.press as Press]
          }}</Button>
          <Button size="small" @click="copy(step.end.report)">Copy for the help desk</Button>
          <Button size="small" @click="print">Print it</Button>
        </div>
        <pre class="report">{{ step.end.report }}</pre>
      </template>
      <div class="row">
        <Button size="small" type="link" @click="back">Back</Button>
        <Button size="small" type="link" @click="chosen = step = null">Another one</Button>
      </div>
    </template>
  </section>
</template>

<style scoped>
section {
  padding: 12px 14px;
  display: grid;
  gap: 8px;
}
.six {
  display: grid;
  gap: 6px;
}
.six .ant-btn {
  min-height: 36px;
  height: auto;
  white-space: normal;
  text-align: left;
  justify-content: start;
}
.asks {
  margin: 0;
  font-weight: 600;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
  font-size: 13.5px;
}
.row {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.report {
  display: none;
}
</style>

<style>
@media print {
  body:has(pre.report) * {
    visibility: hidden;
  }
  body pre.report.report {
    display: block;
    visibility: visible;
    position: fixed;
    inset: 0;
    white-space: pre-wrap;
    font: inherit;
  }
}
</style>
