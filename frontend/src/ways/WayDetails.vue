<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { reactive } from 'vue'
import type { Schemas } from '@/api/client'
import { useOutgoing } from '@/shared/outgoing'
import ExtensionSetup from './ExtensionSetup.vue'
import ServerForm from './ServerForm.vue'
import { SOUND } from './words'
import { useWays, type Way } from './ways'
import { at } from '@/shared/at'

const props = defineProps<{ way: Way; view: Schemas['WaysView'] }>()
const ways = useWays()
const outgoing = useOutgoing()
const BY_EXTENSION = ['extension', 'second-camera', 'twice']
const BY_WINDOW = ['tab', 'window']
const KINDS: Record<string, string> = {
  extension: 'extension',
  server: 'server',
  'network-camera': 'network camera',
  device: 'camera device',
}
const takers = () => props.view.takers.filter((one) => one.kind === KINDS[props.way.id])
const ticked = reactive(new Set<string>()) // what only the teacher can see
const isDone = (step: Way['steps'][number]) => step.done ?? ticked.has(step.says)
function tick(says: string) {
  if (!ticked.delete(says)) ticked.add(says)
}
const callPage = () =>
  window.open(location.origin.replace('127.0.0.1', 'localhost') + at('/call'), 'cartouche-call')
</script>

<template>
  <section class="card details" :aria-label="way.name">
    <h2>{{ way.name }}</h2>
    <p>{{ way.says }}</p>
    <ol>
      <li v-for="step in way.steps" :key="step.says" :class="{ done: isDone(step) }">
        {{ step.says }}
        <label v-if="step.done === null"
          ><input
            type="checkbox"
            :checked="ticked.has(step.says)"
            :aria-label="`Done: ${step.says}`"
            @change="tick(step.says)"
          />
          Done</label
        >
        <strong v-else-if="step.done" class="tick">✓ done</strong>
      </li>
    </ol>
    <Button v-if="BY_WINDOW.includes(way.id)" type="primary" @click="outgoing.open"
      >Open the outgoing window</Button
    >
    <ExtensionSetup v-if="BY_EXTENSION.includes(way.id)" :view="view" />
    <ServerForm v-if="way.id === 'server'" :view="view" />
    <template v-if="way.id === 'network-camera'">
      <p v-if="view.network_camera" class="address num">{{ view.network_camera }}</p>
      <Button
        :type="view.network_camera ? 'default' : 'primary'"
        @click="ways.networkCamera(!view.network_camera)"
        >{{ view.network_camera ? 'Switch it off' : 'Switch it on' }}</Button
      >
    </template>
    <template v-if="way.id === 'device'">
      <Button
        v-for="one in view.devices"
        :key="one.path"
        :type="view.device === one.path ? 'default' : 'primary'"
        @click="ways.device(view.device === one.path ? null : one.path)"
        >{{ view.device === one.path ? `Stop “${one.name}”` : `Give it to “${one.name}”` }}</Button
      >
    </template>
    <ul v-if="takers().length" class="takers" aria-label="Who takes it just now">
      <li v-for="(one, index) in takers()" :key="index">
        <strong>{{ one.name.replace(/^https?:\/\//, '') }}</strong>
        <span v-if="one.says" class="says">{{ one.says }}</span>
        <span v-else class="num"
          >{{ one.width ? `${one.width}×${one.height}` : ''
          }}{{ one.fps ? ` · ${one.fps.toFixed(0)} a second` : ''
          }}{{ one.sound ? ' · with sound' : '' }}</span
        >
      </li>
    </ul>
    <ul class="gets" aria-label="What each audience gets">
      <li v-for="one in way.gets" :key="one.id">
        <strong
          >{{ one.name }}<span v-if="!one.is_teacher" class="soft num"> ×{{ one.count }}</span></strong
        >
        <span>{{ one.sentence }}</span>
        <small v-if="one.must">{{ one.must }}.</small>
      </li>
    </ul>
    <p class="soft">{{ SOUND[way.sound] }}. {{ way.risk }}</p>
    <p v-if="way.tried" class="tried">
      Measured when tried: {{ way.tried.width }}×{{ way.tried.height }},
      {{ way.tried.fps.toFixed(0) }} pictures a second<template v-if="way.tried.codec">
        ({{ way.tried.codec }})</template
      ><template v-if="way.tried.delay_ms != null"
        >, {{ way.tried.delay_ms.toFixed(0) }} ms in the call</template
      >.
    </p>
    <Button @click="callPage">Try it in a practice call</Button>
  </section>
</template>

<style scoped>
.details {
  padding: 14px 18px;
  display: grid;
  gap: 10px;
  justify-items: start;
}
ol,
ul {
  margin: 0;
  padding-left: 20px;
  display: grid;
  gap: 4px;
}
ul {
  list-style: none;
  padding: 0;
}
.tick {
  color: var(--malachite);
  font-size: 13.5px;
  white-space: nowrap;
}
.done {
  color: var(--soft);
}
label {
  white-space: nowrap;
  color: var(--soft);
  font-size: 13.5px;
}
.gets li,
.takers li {
  display: grid;
}
.gets span,
.takers span {
  font-size: 14px;
}
small {
  color: var(--soft);
  font-size: 13px;
}
.says {
  color: var(--ochre);
}
.tried {
  font-weight: 600;
}
.address {
  overflow-wrap: anywhere;
  font-size: 13px;
}
</style>
