<script setup lang="ts">
import { Button, Input, InputNumber } from 'ant-design-vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { metres } from './words'
import { useWays, type Viewers } from './ways'

const props = defineProps<{ view: Schemas['WaysView'] }>()
const ways = useWays()
const SCREENS: Record<Viewers['screen'], string> = {
  laptop: 'Laptop',
  tablet: 'Tablet',
  phone: 'Phone',
  monitor: 'Monitor',
  board: 'Board',
}
const SHOWN: Record<Viewers['shown'], string> = { pinned: 'pinned', grid: 'in a grid', full: 'full screen' }
const learners = computed(() => props.view.viewers.filter((one) => !one.is_teacher))
const usual = (screen: string) => props.view.screens.find((one) => one.name === screen)!

function change(id: string, to: Partial<Viewers>) {
  void ways.viewers(props.view.viewers.map((one) => (one.id === id ? { ...one, ...to } : one)))
}
function add() {
  const one: Viewers = {
    id: `viewers-${Date.now().toString(36)}`,
    name: 'Board in the room',
    count: 1,
    screen: 'board',
    inches: null,
    distance_mm: null,
    shown: 'full',
    tiles: 9,
    is_teacher: false,
  }
  void ways.viewers([...props.view.viewers, one])
}
const remove = (id: string) => void ways.viewers(props.view.viewers.filter((one) => one.id !== id))
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
const text = (event: Event) => (event.target as HTMLInputElement).value.trim()
</script>

<template>
  <section class="card" aria-label="Who watches">
    <h2>Who watches{{ view.class_name ? ` · ${view.class_name}` : '' }}</h2>
    <ul>
      <li v-for="one in learners" :key="one.id" :aria-label="one.name">
        <Input
          class="name"
          :default-value="one.name"
          :maxlength="60"
          aria-label="Name"
          @blur="text($event) && text($event) !== one.name && change(one.id, { name: text($event) })"
        />
        <InputNumber
          :value="one.count"
          :min="1"
          :max="500"
          :precision="0"
          :aria-label="`How many: ${one.name}`"
          @change="(value) => value && change(one.id, { count: Number(value) })"
        />
        <select
          :value="one.screen"
          :aria-label="`Screen of ${one.name}`"
          @change="
            change(one.id, { screen: chosen($event) as Viewers['screen'], inches: null, distance_mm: null })
          "
        >
          <option v-for="(word, name) in SCREENS" :key="name" :value="name">{{ word }}</option>
        </select>
        <select
          :value="one.shown"
          :aria-label="`How ${one.name} look`"
          @change="change(one.id, { shown: chosen($event) as Viewers['shown'] })"
        >
          <option v-for="(word, name) in SHOWN" :key="name" :value="name">{{ word }}</option>
        </select>
        <label class="soft"
          >Diagonal
          <InputNumber
            size="small"
            :value="one.inches ?? usual(one.screen).inches"
            :min="3"
            :max="200"
            :aria-label="`Diagonal of ${one.name} in inches`"
            @change="(value) => value && change(one.id, { inches: Number(value) })"
          />
          in, seen from
          <InputNumber
            size="small"
            :value="Math.round((one.distance_mm ?? usual(one.screen).distance_mm) / 10)"
            :min="15"
            :max="2000"
            :precision="0"
            :aria-label="`Distance of ${one.name} in centimetres`"
            @change="(value) => value && change(one.id, { distance_mm: Number(value) * 10 })"
          />
          cm</label
        >
        <Button
          size="small"
          type="text"
          :disabled="learners.length < 2"
          :aria-label="`Remove ${one.name}`"
          @click="remove(one.id)"
          >Remove</Button
        >
      </li>
    </ul>
    <Button size="small" :disabled="view.viewers.length >= view.max_viewers" @click="add"
      >Add an audience</Button
    >
    <p class="soft small">
      A board is seen from {{ metres(usual('board').distance_mm) }} unless you say otherwise: from the last
      row.
    </p>
  </section>
</template>

<style scoped>
section {
  padding: 14px 18px;
  display: grid;
  gap: 8px;
  justify-items: start;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
  width: 100%;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
li > :first-child {
  flex: 1 1 150px;
}
li > :last-child {
  margin-left: auto;
}
li label {
  font-size: 13.5px;
  white-space: nowrap;
}
li > :deep(.ant-input-number) {
  width: 64px;
}
label :deep(.ant-input-number) {
  width: 66px;
}
select {
  font: inherit;
  min-height: 32px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
}
.small {
  font-size: 13px;
}
</style>
