<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { ActionName } from './actions'
import { reads } from './reads'

/** The lesson's keys for the hand that is not on this computer's keyboard: the same words in the same order on the small window and a phone. */
type Part = Pick<
  Schemas['ToolsView'],
  'held' | 'timer' | 'actions' | 'steps' | 'at' | 'next' | 'sheets' | 'recording'
>
const props = defineProps<{
  tools: Part | null
  plates: { id: string; name: string }[]
  on: string | null
  counting: string | null
  heldS: number | null
  recordedS: number
  state: string
  wrong: boolean
  microphone: string | null
}>()
const emit = defineEmits<{ act: [action: ActionName, number?: number]; mute: [] }>()
const key = (name: ActionName) => props.tools?.actions.find((one) => one.name === name)?.shown ?? ''
const held = computed(() => props.tools?.held ?? null)
const records = computed(() => props.tools?.recording.state === 'recording')
const recorded = computed(() => records.value || props.tools?.recording.state === 'paused')
const byName = (id?: string | null) => props.tools?.steps.find(({ step }) => step.id === id)?.step ?? null
const next = computed(() => byName(props.tools?.next))
const note = computed(() => byName(props.tools?.at)?.note ?? '')
const line = computed(() => {
  if (props.wrong) return props.state
  if (held.value?.by === 'sheet') return 'Learners see a sheet'
  if (held.value)
    return `Held for ${reads(props.heldS ?? 0, 'up')}${held.value.asks ? ': still needed?' : ''}`
  return props.state
})
</script>

<template>
  <div class="pad">
    <p class="state" :class="{ wrong, held }" role="status">{{ line }}</p>
    <button v-if="microphone" class="heard" @click="emit('mute')">
      <span><span class="mark" aria-hidden="true" />“{{ microphone }}” is open</span>
      <span>Close <kbd>M</kbd></span>
    </button>
    <p v-else class="soft closed">All microphones are closed</p>
    <p v-if="note" class="note">{{ note }}</p>
    <div class="keys" role="group" aria-label="Tools">
      <button :class="{ on: held }" @click="emit('act', held?.by === 'sheet' ? 'live' : 'hold')">
        {{ held?.by === 'sheet' ? 'Back to the page' : held ? 'Let it go on' : 'Hold' }}
        <kbd>{{ key(held?.by === 'sheet' ? 'live' : 'hold') }}</kbd>
      </button>
      <button @click="emit('act', 'sheet')">
        Keep a sheet <kbd>{{ key('sheet') }}</kbd>
      </button>
      <button :class="{ on: tools?.timer.runs }" @click="emit('act', 'timer')">
        {{ tools?.timer.runs ? 'Pause' : 'Timer' }} <b class="num">{{ counting }}</b>
        <kbd>{{ key('timer') }}</kbd>
      </button>
      <button @click="emit('act', 'minute')">
        +1 min <kbd>{{ key('minute') }}</kbd>
      </button>
      <button :class="{ on: records }" @click="emit('act', 'record')">
        {{ records ? 'Recording' : recorded ? 'Record on' : 'Record' }}
        <b v-if="recorded" class="num">{{ reads(recordedS, 'up') }}</b> <kbd>{{ key('record') }}</kbd>
      </button>
      <button :disabled="!recorded" @click="emit('act', 'stop')">
        Stop recording <kbd>{{ key('stop') }}</kbd>
      </button>
      <button @click="emit('act', 'back')">
        Back <kbd>{{ key('back') }}</kbd>
      </button>
      <button class="forward" @click="emit('act', 'forward')">
        <span>{{ next ? `Next: ${next.name}` : 'Forward' }}</span> <kbd>{{ key('forward') }}</kbd>
      </button>
    </div>
    <div class="plates" role="group" aria-label="Plates">
      <button
        v-for="(plate, index) in plates.slice(0, 9)"
        :key="plate.id"
        :aria-pressed="plate.id === on"
        :class="{ on: plate.id === on }"
        @click="emit('act', 'plate', index + 1)"
      >
        <kbd>{{ index + 1 }}</kbd> {{ plate.name }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  gap: 10px;
}
.state {
  padding: 8px 12px;
  border-radius: 9px;
  background: var(--malachite-tint);
  color: var(--malachite);
  font-weight: 600;
}
.state.held {
  background: var(--ochre-tint);
  color: var(--ochre);
}
.state.wrong {
  background: var(--carnelian-tint);
  color: var(--carnelian);
}
.note {
  font-size: 17px;
  line-height: 1.35;
  white-space: pre-line;
}
.keys,
.plates {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
button {
  appearance: none;
  min-height: 52px;
  padding: 6px 12px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-weight: 600;
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  text-align: left;
  cursor: pointer;
  touch-action: manipulation;
}
.plates button {
  min-height: 44px;
  justify-content: flex-start;
  font-weight: 400;
}
button.heard {
  background: var(--ink);
  color: var(--sheet);
}
.heard .mark {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 8px;
  border-radius: 50%;
  background: var(--sheet);
}
.closed {
  margin: 0 2px;
}
button.on {
  border-color: var(--lapis);
  background: var(--lapis-tint);
  color: var(--lapis);
}
button:focus-visible {
  outline: 3px solid var(--lapis);
  outline-offset: 1px;
}
</style>
