<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useSoundLook } from './look'

type Station = Schemas['Station']
const look = useSoundLook()
const stations = computed(() => look.sound?.declared.stations ?? [])
const rooms = computed(() => [...new Set(stations.value.map((one) => one.room))])

function change(id: string, to: Partial<Station>) {
  void look.declare((kit) => ({
    ...kit,
    stations: kit.stations.map((one) => (one.id === id ? { ...one, ...to } : one)),
  }))
}
function add() {
  const number = stations.value.length
  const id = `station-${Date.now().toString(36)}`
  const station: Station = {
    id,
    name: number === 1 ? 'Board' : `Computer ${number + 1}`,
    room: rooms.value[0] ?? 'This room',
    joins: true,
    microphone: 'closed',
    loudspeaker: 'on',
  }
  void look.declare((kit) => ({ ...kit, stations: [...kit.stations, station] }))
}
function remove(id: string) {
  void look.declare((kit) => ({ ...kit, stations: kit.stations.filter((one) => one.id !== id) }))
}
const value = (event: Event) => (event.target as HTMLSelectElement).value
const text = (event: Event) => (event.target as HTMLInputElement).value.trim()
</script>

<template>
  <section class="card" aria-label="Computers in the call">
    <h2>Computers, phones and boards in the call</h2>
    <ul>
      <li v-for="(one, at) in stations" :key="one.id">
        <Input
          size="small"
          :default-value="one.name"
          :maxlength="60"
          aria-label="Name"
          @blur="text($event) && text($event) !== one.name && change(one.id, { name: text($event) })"
        />
        <Input
          size="small"
          :default-value="one.room"
          :maxlength="60"
          :aria-label="`Room of ${one.name}`"
          @blur="text($event) && text($event) !== one.room && change(one.id, { room: text($event) })"
        />
        <label
          ><input type="checkbox" :checked="one.joins" @change="change(one.id, { joins: !one.joins })" /> In
          the call</label
        >
        <select
          v-if="at > 0"
          :value="one.microphone"
          :aria-label="`Microphone of ${one.name}`"
          @change="change(one.id, { microphone: value($event) as Station['microphone'] })"
        >
          <option value="none">No microphone</option>
          <option value="closed">Mic closed</option>
          <option value="open">Mic open</option>
        </select>
        <span v-else class="soft">Mics: above</span>
        <select
          :value="one.loudspeaker"
          :aria-label="`Loudspeaker of ${one.name}`"
          @change="change(one.id, { loudspeaker: value($event) as Station['loudspeaker'] })"
        >
          <option value="on">Loudspeaker on</option>
          <option value="off">Loudspeaker off</option>
          <option value="headphones">Headphones</option>
          <option value="none">No loudspeaker</option>
        </select>
        <Button
          v-if="at > 0"
          size="small"
          type="text"
          :aria-label="`Remove ${one.name}`"
          @click="remove(one.id)"
          >Remove</Button
        >
        <span v-else />
      </li>
    </ul>
    <label class="howls"
      ><input
        type="checkbox"
        :checked="look.sound?.declared.closes_howls"
        @change="look.declare((kit) => ({ ...kit, closes_howls: !kit.closes_howls }))"
      />
      Close a microphone that begins to howl</label
    >
    <Button size="small" :disabled="stations.length >= 12" @click="add"
      >Add a computer, phone or board</Button
    >
  </section>
</template>

<style scoped>
section {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  justify-items: start;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
  width: 100%;
}
li {
  display: grid;
  grid-template-columns: 1.3fr 1.1fr auto auto auto auto;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}
label {
  white-space: nowrap;
  display: inline-flex;
  gap: 5px;
}
select {
  font: inherit;
  padding: 2px 4px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
}
@media (max-width: 1500px) {
  li {
    grid-template-columns: 1fr 1fr auto;
  }
}
</style>
