<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import type { Plate } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import PlateThumb from '@/shared/PlateThumb.vue'
import type { PlateView } from './plates'
import { at } from '@/shared/at'

defineProps<{ plates: PlateView[]; chosen: string | null; readyMade: Plate[] }>()
const emit = defineEmits<{
  choose: [id: string]
  order: [id: string, by: 1 | -1]
  add: [name: string, copyOf: string | null]
  remove: [id: string]
  import: [file: File]
}>()
const from = ref('')
const file = ref<HTMLInputElement>()

function add(readyMade: Plate[]) {
  const source = readyMade.find((one) => one.id === from.value)
  emit('add', source?.name ?? 'New plate', source?.id ?? null)
}
function took(event: Event) {
  const input = event.target as HTMLInputElement
  if (input.files?.[0]) emit('import', input.files[0])
  input.value = ''
}
</script>

<template>
  <div class="list">
    <ol v-roving aria-label="Plates of this lesson">
      <li v-for="(one, index) in plates" :key="one.plate.id" :class="{ chosen: one.plate.id === chosen }">
        <button class="pick" :aria-pressed="one.plate.id === chosen" @click="emit('choose', one.plate.id)">
          <PlateThumb :plate="one.plate" :rects="one.rects" :on="one.on" />
          <span class="name"
            ><kbd v-if="index < 9">{{ index + 1 }}</kbd
            ><span>{{ one.plate.name }}</span></span
          >
          <span v-if="one.on" class="on">Outgoing</span>
        </button>
        <span v-if="one.plate.id === chosen" class="tools">
          <Button
            size="small"
            :disabled="index === 0"
            aria-label="Move up"
            @click="emit('order', one.plate.id, -1)"
            >↑</Button
          >
          <Button
            size="small"
            :disabled="index === plates.length - 1"
            aria-label="Move down"
            @click="emit('order', one.plate.id, 1)"
            >↓</Button
          >
          <Button size="small" @click="emit('add', `${one.plate.name} 2`.slice(0, 60), one.plate.id)"
            >Copy</Button
          >
          <Button size="small" :disabled="plates.length < 2" @click="emit('remove', one.plate.id)"
            >Delete</Button
          >
        </span>
      </li>
    </ol>
    <div class="new">
      <ChoiceList
        label="What a new plate begins as"
        small
        :value="from"
        :options="[
          { value: '', label: 'Empty' },
          ...readyMade.map((one) => ({ value: one.id, label: one.name })),
        ]"
        @change="(value) => (from = value)"
      />
      <Button size="small" @click="add(readyMade)">New plate</Button>
    </div>
    <div class="new">
      <Button size="small" :href="at('/api/plates/export')" download>Export</Button>
      <Button size="small" @click="file?.click()">Import</Button>
      <input
        ref="file"
        type="file"
        accept="application/json,.json"
        aria-label="Plates file"
        hidden
        @change="took"
      />
    </div>
  </div>
</template>

<style scoped>
.list {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 2px;
  display: grid;
  gap: 6px;
  overflow: auto;
}
li {
  border-radius: 10px;
  padding: 5px;
}
li.chosen {
  background: var(--lapis-tint);
}
.pick {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  width: 100%;
  font: inherit;
  font-size: 14px;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 0 10px;
  align-items: center;
}
.pick :deep(.thumb) {
  grid-row: span 2;
}
.name {
  display: flex;
  gap: 6px;
  align-items: baseline;
  overflow-wrap: anywhere;
}
.chosen .name {
  font-weight: 700;
  color: var(--lapis);
}
.on {
  color: var(--lapis);
  font-size: 13px;
  font-weight: 650;
}
.tools {
  display: flex;
  gap: 4px;
  margin-top: 6px;
}
.new {
  display: flex;
  gap: 6px;
}
</style>
