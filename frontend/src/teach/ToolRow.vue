<script setup lang="ts">
import { Button, InputNumber, Popover, Segmented, Switch } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useInk } from './ink'
import { useTools } from './tools'

/** The tools of the lesson in one row, each with its key. */
const emit = defineEmits<{ more: [] }>()
const tools = useTools()
const ink = useInk()
const held = computed(() => tools.view?.held ?? null)
const timer = computed(() => tools.view?.timer ?? null)
const closer = computed(() => (tools.view?.frame.on === false ? 1 : (tools.view?.frame.zoom ?? 1)))
const minutes = ref(5)
watch(
  () => timer.value?.total_s,
  (total) => (minutes.value = Math.round((total ?? 300) / 6) / 10),
  { immediate: true },
)
const WAYS = [
  { value: 'down', label: 'Counts down' },
  { value: 'up', label: 'Counts up' },
]
const change = (body: Schemas['TimerChange']) =>
  tools.ask(() => answer(api.PUT('/api/teach/timer', { body })))
</script>

<template>
  <div v-roving class="tools" role="toolbar" aria-label="Tools">
    <Button size="large" :class="{ on: held && held.by !== 'sheet' }" @click="tools.act('hold')"
      >{{ held && held.by !== 'sheet' ? 'Let it go on' : 'Hold' }}
      <kbd>{{ tools.keyOf('hold') }}</kbd></Button
    >
    <Button size="large" @click="tools.act('sheet')"
      >Keep a sheet <kbd>{{ tools.keyOf('sheet') }}</kbd></Button
    >
    <span class="pair">
      <Button size="large" :class="{ on: timer?.runs }" @click="tools.act('timer')"
        >{{ timer?.runs ? 'Pause' : 'Timer' }} <b class="num">{{ tools.counting }}</b>
        <kbd>{{ tools.keyOf('timer') }}</kbd></Button
      >
      <Popover trigger="click" placement="top" title="Timer">
        <template #content>
          <div class="set">
            <Segmented
              v-radios
              :value="timer?.way"
              :options="WAYS"
              @change="(way) => change({ way: way as 'down' })"
            />
            <label v-if="timer?.way === 'down'"
              >Minutes
              <InputNumber v-model:value="minutes" :min="0.1" :max="600" :step="1" aria-label="Minutes" />
              <Button @click="change({ total_s: Math.max(1, minutes * 60) })">Set</Button></label
            >
            <label
              ><Switch :checked="timer?.shown" @change="(on) => change({ shown: !!on })" /> Learners see
              it</label
            >
            <label
              ><Switch :checked="timer?.chime" @change="(on) => change({ chime: !!on })" /> Learners hear its
              end</label
            >
            <span class="pair">
              <Button v-if="timer?.way === 'down'" @click="tools.act('minute')"
                >+1 min <kbd>{{ tools.keyOf('minute') }}</kbd></Button
              >
              <Button @click="change({ way: timer?.way })">Set back</Button>
            </span>
          </div>
        </template>
        <Button size="large" class="narrow" aria-label="Set the timer">⋯</Button>
      </Popover>
    </span>
    <span class="pair" role="group" aria-label="Closer look">
      <Button
        size="large"
        class="narrow"
        aria-label="Less close"
        :disabled="closer <= 1"
        @click="tools.act('wider')"
        >−</Button
      >
      <Button size="large" title="Show the whole page" :disabled="closer <= 1" @click="tools.act('whole')"
        ><b class="num">{{ Math.round(closer * 100) }}%</b> <kbd>{{ tools.keyOf('whole') }}</kbd></Button
      >
      <Button size="large" class="narrow" aria-label="A closer look" @click="tools.act('closer')">+</Button>
      <Button
        size="large"
        :class="{ on: tools.view?.follow_pen }"
        :aria-pressed="tools.view?.follow_pen"
        title="Follow the pen: the close look goes with the line that you write"
        @click="tools.act('pen')"
        >Follow <kbd>{{ tools.keyOf('pen') }}</kbd></Button
      >
    </span>
    <Button size="large" :class="{ on: ink.on }" :aria-pressed="ink.on" @click="ink.toggle()"
      >Ink <kbd>I</kbd></Button
    >
    <Button size="large" @click="emit('more')">More</Button>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  align-items: center;
}
.tools .ant-btn {
  padding-inline: 8px;
  font-size: 14.5px;
}
.on {
  border-color: var(--lapis);
  color: var(--lapis);
  background: var(--lapis-tint);
}
.pair {
  display: inline-flex;
  gap: 4px;
}
.narrow {
  min-width: 44px;
}
.set {
  display: grid;
  gap: 12px;
  justify-items: start;
}
.set label {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
