<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import VerdictChip from '@/shared/VerdictChip.vue'
import EchoTest from './EchoTest.vue'
import { useSoundLook } from './look'
import MicrophoneDisc from './MicrophoneDisc.vue'
import { TROUBLES, useMicrophones, type SoundTrouble } from './microphones'
import { KINDS, WORDS } from './words'

const props = defineProps<{
  id: string
  label: string
  facts?: Schemas['MicrophoneView']
  trouble?: SoundTrouble
  anyOpen: boolean
}>()
const microphones = useMicrophones()
const look = useSoundLook()
const sentences = useSentences()
const name = ref('')
const declared = computed(() => props.facts?.declared)
watch(declared, (now, before) => now?.name !== before?.name && (name.value = now?.name ?? props.label), {
  immediate: true,
})
const processing = computed(() => {
  void props.facts // looked at anew with each look: the browser may change it
  return props.facts?.phone ? null : microphones.sending.get(props.id)?.processing
})
const live = useLive()
const cameras = computed(() => (live.kit?.devices ?? []).filter((one) => one.kind === 'camera'))
/** As the teacher paired it; else the camera in the same housing, by what the browser tells of it. */
const camera = computed(
  () => declared.value?.device_id ?? cameras.value.find((one) => one.microphone === props.label)?.id ?? '',
)
const asking = ref(false)

function keep(change: Partial<Schemas['KnownMicrophone']>) {
  if (declared.value) void look.declareMicrophone(declared.value, change)
}
function rename() {
  const wanted = name.value.trim()
  if (!wanted) name.value = declared.value?.name ?? props.label
  else if (wanted !== declared.value?.name) keep({ name: wanted })
}
function provoke(to: string) {
  const path = { microphone_id: props.id }
  void sentences.attempt(() =>
    answer(api.PUT('/api/sound/bench/{microphone_id}', { params: { path }, body: { case: to } })),
  )
}
async function openIt(beside = false) {
  asking.value = false
  await microphones.open(props.id, beside)
}
async function toggle(key: 'echo' | 'noise' | 'gain') {
  if (!declared.value) return
  const wanted = { ...declared.value, [key]: !declared.value[key] }
  keep({ [key]: wanted[key] })
  const one = microphones.here.find((known) => known.id === props.id)
  if (one && props.facts?.open) await microphones.process(one, wanted)
}
const SWITCHES = [
  ['echo', 'Echo'],
  ['noise', 'Noise'],
  ['gain', 'Gain'],
] as const
</script>

<template>
  <li class="card" :class="{ open: facts?.open }">
    <MicrophoneDisc :label="label" :open="facts?.open ?? false" :level-db="facts?.level_db" />
    <div class="what">
      <div class="top">
        <Input
          v-model:value="name"
          class="name"
          :maxlength="60"
          :aria-label="`Name of ${label}`"
          @blur="rename"
          @press-enter="rename"
        />
        <VerdictChip v-if="facts?.howls" kind="wrong">Howls</VerdictChip>
        <VerdictChip v-else-if="facts?.heard && !facts.window" :kind="KINDS[facts.heard.kind] ?? 'unknown'">{{
          WORDS[facts.heard.kind]
        }}</VerdictChip>
      </div>
      <p v-if="trouble" role="status">{{ TROUBLES[trouble].sentence }}</p>
      <p v-else-if="facts?.heard && !facts.window" role="status">{{ facts.heard.says }}</p>
      <p v-else-if="facts?.window" class="soft">
        What the shared window plays. Open it beside your microphone.
      </p>
      <p v-else-if="facts?.phone" class="soft">
        {{ facts.open ? 'On the phone. Say a sentence.' : 'On the phone: open it to hear it.' }}
      </p>
      <p v-else class="soft">Listening: say a sentence.</p>
      <p v-if="facts?.heard" class="soft num figures">
        {{ facts.heard.loudness.toFixed(0) }} LUFS · peak {{ facts.heard.peak.toFixed(0) }} dB · background
        {{ facts.heard.floor.toFixed(0) }} LUFS
      </p>
      <div class="extras">
        <label v-if="!facts?.window" class="pick"
          ><input
            type="checkbox"
            :checked="declared?.worn"
            :disabled="!declared"
            @change="keep({ worn: !declared?.worn })"
          />
          Worn (headset, lapel)</label
        >
        <label v-if="facts?.case" class="pick"
          ><span class="soft">Simulated:</span>
          <select
            :value="facts.case"
            :aria-label="`What is the matter with ${label}`"
            @change="provoke(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="one in facts.cases" :key="one" :value="one">{{ one }}</option>
          </select></label
        >
        <label v-if="!facts?.phone && !facts?.window && !facts?.case && cameras.length" class="pick"
          ><span class="soft">With</span>
          <select
            :value="camera"
            :aria-label="`Camera that ${label} belongs to`"
            @change="keep({ device_id: ($event.target as HTMLSelectElement).value || null })"
          >
            <option value="">no camera</option>
            <option v-for="one in cameras" :key="one.id" :value="one.id">{{ one.name }}</option>
          </select></label
        >
        <span v-if="processing && facts?.open" class="browser" role="group" aria-label="The browser removes">
          <span class="soft">Browser:</span>
          <button
            v-for="[key, word] in SWITCHES"
            :key="key"
            type="button"
            :aria-pressed="processing[key]"
            :class="{ on: processing[key] }"
            @click="toggle(key)"
          >
            {{ word }} {{ processing[key] ? 'on' : 'off' }}
          </button>
        </span>
      </div>
    </div>
    <div class="presses">
      <Button v-if="facts?.open" @click="microphones.open(null)">Close</Button>
      <Button v-else type="primary" ghost :disabled="!facts?.here" @click="openIt()">Open this one</Button>
      <EchoTest
        v-if="!facts?.phone && !facts?.window"
        :id="id"
        :name="declared?.name ?? label"
        :disabled="!facts?.here"
      />
      <Button v-if="anyOpen && !facts?.open && facts?.here" size="small" type="text" @click="asking = true"
        >Open beside…</Button
      >
    </div>
    <div
      v-if="asking && facts && !facts.open"
      class="risk"
      role="alertdialog"
      :aria-label="`Open ${label} beside the other`"
    >
      <p v-if="facts.risks.length"><b>With both open:</b> {{ facts.risks.join(' ') }}</p>
      <p v-else>With both open nothing is heard twice and nothing howls.</p>
      <Button size="small" @click="openIt(true)">Open both</Button>
      <Button size="small" type="text" @click="asking = false">Leave it closed</Button>
    </div>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 56px 1fr 132px;
  align-items: start;
  gap: 14px;
  padding: 12px 14px;
}
li.open {
  border: 2px solid var(--lapis);
  padding: 11px 13px;
}
.what {
  display: grid;
  gap: 3px;
  font-size: 14px;
  min-width: 0;
}
.top {
  display: flex;
  align-items: center;
  gap: 10px;
}
.name {
  font-weight: 650;
  font-size: 15px;
  border-color: transparent;
  background: transparent;
  padding: 1px 6px;
  margin-left: -7px;
  flex: 1;
  min-width: 0;
  text-overflow: ellipsis;
}
.name:hover,
.name:focus {
  border-color: var(--line);
}
.figures {
  font-size: 12.5px;
}
.extras {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  font-size: 13px;
}
.pick {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
.pick select {
  font: inherit;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
  max-width: 150px;
}
.browser {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.browser button {
  font: inherit;
  font-size: 12.5px;
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
  color: var(--soft);
  cursor: pointer;
}
.browser button.on {
  color: var(--lapis);
  border-color: var(--lapis);
  background: var(--lapis-tint);
}
.presses {
  display: grid;
  gap: 6px;
}
.presses :deep(.ant-btn) {
  justify-content: center;
}
.risk {
  grid-column: 2 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  font-size: 13.5px;
}
.risk p {
  flex: 1 1 100%;
}
</style>
