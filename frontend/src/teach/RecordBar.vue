<script setup lang="ts">
import { Button, Popover, Segmented, Switch } from 'ant-design-vue'
import { computed } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { lasts, megabytes } from '@/after/says'
import { reads } from './reads'
import { useTools } from './tools'

/** Recording: its length, its room, and the one key. */
const tools = useTools()
const now = computed(() => tools.view?.recording ?? null)
const runs = computed(() => now.value?.state === 'recording' || now.value?.state === 'paused')
const PIECES = [
  { value: 0, label: 'One file' },
  { value: 5, label: '5 min' },
  { value: 10, label: '10 min' },
  { value: 20, label: '20 min' },
]
type Plan = Schemas['RecordPlan']
function plan(change: Partial<Plan>) {
  const recording = { ...now.value!, ...change }
  const { piece_minutes, by_step, page } = recording
  const body = { piece_minutes: piece_minutes as Plan['piece_minutes'], by_step, page }
  return tools.change({ recording }, () => answer(api.PUT('/api/after/plan', { body })))
}
</script>

<template>
  <span v-if="now" class="record" role="group" aria-label="Recording">
    <Button size="large" :class="{ on: now.state === 'recording' }" @click="tools.act('record')">
      <span class="dot" :class="now.state" aria-hidden="true" />
      {{ now.state === 'recording' ? 'Pause' : now.state === 'paused' ? 'Go on' : 'Record' }}
      <b v-if="runs" class="num">{{ reads(tools.recordedS, 'up') }}</b>
      <kbd>{{ tools.keyOf('record') }}</kbd></Button
    >
    <Button v-if="runs" size="large" @click="tools.act('stop')"
      >Stop <kbd>{{ tools.keyOf('stop') }}</kbd></Button
    >
    <Popover trigger="click" placement="top" title="Recording">
      <template #content>
        <div class="set">
          <p v-if="runs" class="num">
            {{ megabytes(now.bytes)
            }}<template v-if="now.left_s !== null"> · room for {{ lasts(now.left_s) }}</template>
          </p>
          <p>What goes out, with the one open microphone. Never your learners.</p>
          <span>In pieces of</span>
          <Segmented
            v-radios
            :value="now.piece_minutes ?? 0"
            :options="PIECES"
            aria-label="Length of a piece"
            @change="(minutes) => plan({ piece_minutes: (Number(minutes) || null) as Plan['piece_minutes'] })"
          />
          <label>
            <Switch :checked="now.by_step" @change="(on) => plan({ by_step: !!on })" />
            <span>A new piece with each step</span>
          </label>
          <label>
            <Switch :checked="now.page" @change="(on) => plan({ page: !!on })" />
            <span>The straight page alone as a second film</span>
          </label>
        </div>
      </template>
      <Button size="large" class="narrow" aria-label="Set up the recording">⋯</Button>
    </Popover>
    <span v-if="now.little || now.says" class="wrong" role="alert">{{
      now.says || `Room for ${lasts(now.left_s ?? 0)} only.`
    }}</span>
  </span>
</template>

<style scoped>
.record {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.record .ant-btn {
  padding-inline: 10px;
  font-size: 15px;
}
.narrow {
  min-width: 40px;
}
.on {
  border-color: var(--carnelian);
  color: var(--carnelian);
}
.dot {
  display: inline-block;
  width: 11px;
  height: 11px;
  border-radius: 50%;
  border: 2px solid var(--carnelian);
  margin-right: 6px;
}
.dot.recording {
  background: var(--carnelian);
}
.set {
  display: grid;
  gap: 9px;
  max-width: 330px;
}
.set label {
  display: flex;
  gap: 8px;
}
.wrong {
  color: var(--carnelian);
  font-size: 14px;
  max-width: 220px;
}
</style>
