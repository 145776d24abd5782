<script setup lang="ts">
import { Button, Input, Modal, Switch } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useLive } from '@/shared/live'
import { reordered } from '@/shared/reordered'
import { useSentences } from '@/shared/sentences'
import { useTools } from './tools'
import { at } from '@/shared/at'

/** The steps of the lesson: made of what stands now, named, noted, ordered, copied, skipped. */
const open = defineModel<boolean>('open', { required: true })
const tools = useTools()
const live = useLive()
const sentences = useSentences()
const steps = computed(() => tools.view?.steps ?? [])
const name = ref('')
const note = ref('')
const plateName = (id?: string | null) =>
  live.teach?.plates.find((one) => one.id === id)?.name ?? 'The plate that is on'

async function make() {
  const body = { name: name.value.trim() || `Step ${steps.value.length + 1}`, note: note.value }
  name.value = note.value = ''
  await tools.ask(() => answer(api.POST('/api/teach/steps', { body })))
}
const file = ref<HTMLInputElement>()
async function bring(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  await sentences.attempt(async () => {
    const response = await fetch(at('/api/teach/steps/import'), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: chosen,
    })
    const body = (await response.json().catch(() => null)) as { detail?: string } | null
    if (!response.ok) throw new Error(body?.detail ?? 'This file could not be read.')
  })
  if (file.value) file.value.value = ''
}
const of = (step_id: string) => ({ params: { path: { step_id } } })
const change = (id: string, body: Partial<Schemas['StepChange']>) =>
  tools.ask(() =>
    answer(api.PATCH('/api/teach/steps/{step_id}', { ...of(id), body: body as Schemas['StepChange'] })),
  )
const copy = (id: string) => tools.ask(() => answer(api.POST('/api/teach/steps/{step_id}/copy', of(id))))
const remove = (id: string) => tools.ask(() => answer(api.DELETE('/api/teach/steps/{step_id}', of(id))))
const go = (id: string) => tools.ask(() => answer(api.POST('/api/teach/steps/{step_id}/go', of(id))))
function move(id: string, by: 1 | -1) {
  const next = reordered(steps.value, ({ step }) => step.id === id, by)
  if (!next) return
  const ids = next.map(({ step }) => step.id)
  return tools.change({ steps: next }, () => answer(api.PUT('/api/teach/steps/order', { body: { ids } })))
}
</script>

<template>
  <Modal v-model:open="open" title="Steps of the lesson" :footer="null" width="760px">
    <p class="soft">
      Set plate, cameras, page, closer look and timer as they should be, then make a step of it. One key goes
      from step to step.
    </p>
    <form class="make" @submit.prevent="make">
      <Input
        v-model:value="name"
        placeholder="Name of the step"
        aria-label="Name of the new step"
        :maxlength="60"
      />
      <Input
        v-model:value="note"
        placeholder="A note to yourself"
        aria-label="Note of the new step"
        :maxlength="400"
      />
      <Button type="primary" html-type="submit">Make a step of what stands now</Button>
    </form>
    <p class="file">
      <Button v-if="steps.length" :href="at('/api/teach/steps/export')">Save as a file</Button>
      <Button @click="file?.click()">Bring in from a file</Button>
      <input
        ref="file"
        type="file"
        accept="application/json,.json"
        hidden
        aria-label="File with steps"
        @change="bring"
      />
    </p>
    <ol aria-label="Steps">
      <li
        v-for="({ step, lacks }, index) in steps"
        :key="step.id"
        :class="{ at: step.id === tools.view?.at, skipped: step.skipped }"
      >
        <span class="num">{{ index + 1 }}</span>
        <div class="says">
          <Input
            :value="step.name"
            :aria-label="`Name of step ${index + 1}`"
            :maxlength="60"
            @change="
              (event) => event.target.value?.trim() && change(step.id, { name: event.target.value.trim() })
            "
          />
          <Input
            :value="step.note"
            :aria-label="`Note of step ${index + 1}`"
            placeholder="A note to yourself"
            :maxlength="400"
            @change="(event) => change(step.id, { note: event.target.value ?? '' })"
          />
          <span class="soft"
            >{{ plateName(step.plate_id)
            }}<template v-if="(step.framing?.zoom ?? 1) > 1"
              >, {{ Math.round((step.framing?.zoom ?? 1) * 100) }}%</template
            ><template v-if="step.sheet_id">, a sheet</template
            ><template v-if="step.timer"
              >, timer {{ Math.round(step.timer.total_s / 60) }} min</template
            ></span
          >
          <VerdictChip v-if="lacks" kind="look">{{ lacks }}</VerdictChip>
        </div>
        <div class="does">
          <Button @click="go(step.id)">Show</Button>
          <Button :disabled="index === 0" :aria-label="`Step ${index + 1} up`" @click="move(step.id, -1)"
            >↑</Button
          >
          <Button
            :disabled="index === steps.length - 1"
            :aria-label="`Step ${index + 1} down`"
            @click="move(step.id, 1)"
            >↓</Button
          >
          <Button @click="copy(step.id)">Copy</Button>
          <Button @click="change(step.id, { anew: true })">From now</Button>
          <Button danger @click="remove(step.id)">Delete</Button>
          <label
            ><Switch
              :checked="step.skipped"
              size="small"
              @change="(on) => change(step.id, { skipped: !!on })"
            />
            Skip</label
          >
        </div>
      </li>
    </ol>
  </Modal>
</template>

<style scoped>
.make {
  display: grid;
  grid-template-columns: 1fr 1.4fr auto;
  gap: 8px;
  margin: 12px 0;
}
.file {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}
ol {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 8px;
  max-height: 52vh;
  overflow-y: auto;
}
li {
  display: grid;
  grid-template-columns: 24px 1fr auto;
  gap: 10px;
  padding: 8px 10px;
  border: 1px solid var(--line);
  border-radius: 10px;
}
li.at {
  border-color: var(--lapis);
}
li.skipped {
  border-style: dashed;
  background: var(--paper);
}
.says {
  display: grid;
  gap: 4px;
}
.does {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  max-width: 250px;
  align-content: start;
  align-items: center;
}
</style>
