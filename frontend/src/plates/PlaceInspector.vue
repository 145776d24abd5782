<script setup lang="ts">
import { Button, Checkbox, Input, InputNumber, Segmented } from 'ant-design-vue'
import { computed } from 'vue'
import type { Device } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import FaceInspector, { type Cost, type Looks } from './FaceInspector.vue'
import type { Place } from './plates'
import { chosenContent, contentSays, pictureChoices, shape, shaped } from './says'
import type { Box } from './snap'

const props = defineProps<{
  place: Place
  at: number
  count: number
  box: Box
  devices: Device[]
  missing: string
  looks: Looks
  natural: boolean
  cost: Cost
  inner: boolean
}>()
const emit = defineEmits<{
  change: [more: Partial<Place>, settled?: boolean]
  lay: [box: Box]
  restack: [by: 1 | -1]
  inner: [on: boolean]
  remove: []
}>()

const content = computed(() => props.place.content)
const pictured = computed(() => content.value.kind === 'role' || content.value.kind === 'feed')
const holds = computed(() =>
  content.value.kind === 'role'
    ? `role:${content.value.role}`
    : content.value.kind === 'feed'
      ? `feed:${content.value.feed_id}`
      : content.value.kind,
)
const choices = computed(() => [...pictureChoices(props.devices), { value: 'colour', label: 'Plain colour' }])
const NUMBERS = [
  ['x', 'Left'],
  ['y', 'Top'],
  ['width', 'Width'],
  ['height', 'Height'],
] as const

function hold(value: string) {
  emit('change', { content: chosenContent(value) ?? { kind: 'colour', colour: '#E6EAF6' } })
}
function number(key: keyof Box, value: unknown) {
  if (typeof value !== 'number' || !Number.isFinite(value)) return
  const next = { ...props.box, [key]: value / 100 }
  next.width = Math.min(Math.max(next.width, 0.05), 1)
  next.height = Math.min(Math.max(next.height, 0.05), 1)
  next.x = Math.min(Math.max(next.x, 0), 1 - next.width)
  next.y = Math.min(Math.max(next.y, 0), 1 - next.height)
  emit('lay', next)
}
function words(more: { name?: string; line?: string }) {
  if (content.value.kind === 'caption') emit('change', { content: { ...content.value, ...more } })
}
function coloured(event: Event) {
  const colour = (event.target as HTMLInputElement).value.toUpperCase()
  if (content.value.kind === 'colour' || content.value.kind === 'frame')
    emit('change', { content: { ...content.value, colour } })
}
</script>

<template>
  <section class="card inspector" aria-label="The chosen place">
    <h2>{{ contentSays(content, devices) }}</h2>
    <ChoiceList
      v-if="pictured || content.kind === 'colour'"
      label="What this place holds"
      small
      :value="holds"
      :options="choices"
      @change="hold"
    />
    <template v-if="content.kind === 'caption'">
      <Input
        :value="content.name"
        :maxlength="80"
        aria-label="Name"
        placeholder="Name"
        @change="words({ name: $event.target.value ?? '' })"
      />
      <Input
        :value="content.line"
        :maxlength="120"
        aria-label="A line below"
        placeholder="A line below"
        @change="words({ line: $event.target.value ?? '' })"
      />
      <p v-if="missing" class="wrong" role="status">
        No typeface here has {{ [...missing].join(' ') }}: it stands as [?].
      </p>
    </template>
    <label v-if="content.kind === 'colour' || content.kind === 'frame'" class="row"
      >Colour <input type="color" :value="content.colour.toLowerCase()" @change="coloured"
    /></label>
    <Segmented
      v-if="pictured"
      v-radios
      block
      :value="place.fit"
      :options="[
        { value: 'fit', label: 'Whole' },
        { value: 'fill', label: 'Fill, cut' },
      ]"
      aria-label="Fit or fill"
      @change="(value) => emit('change', { fit: value as 'fit' | 'fill' })"
    />
    <Checkbox v-if="pictured && place.fit === 'fill'" :checked="inner" @change="emit('inner', !inner)"
      >Drag the picture inside</Checkbox
    >
    <Segmented
      v-if="content.kind !== 'caption'"
      v-radios
      block
      :value="shape(place)"
      :options="[
        { value: 'square', label: 'Square' },
        { value: 'rounded', label: 'Rounded' },
        { value: 'round', label: 'Round' },
      ]"
      aria-label="Shape"
      @change="(value) => emit('change', shaped(value as 'square' | 'rounded' | 'round'))"
    />
    <div v-if="pictured || content.kind === 'colour'" class="row">
      <Checkbox
        :checked="!!place.border"
        @change="emit('change', { border: place.border ? null : { width: 0.006, colour: '#FFFDF8' } })"
        >Border</Checkbox
      >
      <Checkbox :checked="place.shadow" @change="emit('change', { shadow: !place.shadow })">Shadow</Checkbox>
    </div>
    <Checkbox
      v-if="pictured && at > 0"
      :checked="place.off_writing"
      @change="emit('change', { off_writing: !place.off_writing })"
      >Keeps off the writing</Checkbox
    >
    <Checkbox v-if="pictured" :checked="place.adorns" @change="emit('change', { adorns: !place.adorns })"
      >Hide with caption and frame <kbd>A</kbd></Checkbox
    >
    <FaceInspector
      v-if="pictured && holds !== 'role:page'"
      :place="place"
      :devices="devices"
      :looks="looks"
      :natural="natural"
      :cost="cost"
      @change="(more, settled) => emit('change', more, settled)"
    />
    <div class="numbers">
      <label v-for="[key, label] in NUMBERS" :key="key"
        ><span class="soft">{{ label }}</span>
        <InputNumber
          size="small"
          :value="Math.round(box[key] * 1000) / 10"
          :min="0"
          :max="100"
          :step="1"
          :aria-label="`${label}, per cent`"
          @change="(value: unknown) => number(key, value)"
        />
      </label>
    </div>
    <div class="row">
      <Button size="small" :disabled="at === count - 1" @click="emit('restack', 1)">Bring forward</Button>
      <Button size="small" :disabled="at === 0" @click="emit('restack', -1)">Send back</Button>
      <Button size="small" danger @click="emit('remove')">Remove</Button>
    </div>
  </section>
</template>

<style scoped>
.inspector {
  padding: 10px 12px;
  display: grid;
  gap: 9px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.numbers {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 10px;
}
.numbers label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 14px;
}
.numbers :deep(.ant-input-number) {
  width: 78px;
}
.wrong {
  color: var(--carnelian);
  font-size: 14px;
}
</style>
