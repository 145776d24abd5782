<script lang="ts">
import type { Schemas } from '@/api/client'

export type Looks = Record<string, Schemas['Grade']>
export interface Cost {
  ms: number | null
  lowered: boolean
  tooSlow: boolean
}
</script>

<script setup lang="ts">
import { Button, Checkbox, Segmented } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Device } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import NumberSlider from '@/shared/NumberSlider.vue'
import type { Place } from './plates'
import { AS_IT_COMES } from './says'

/** A face made the best of: what is behind it, its light and colour, its frame. */
const props = defineProps<{
  place: Place
  devices: Device[]
  looks: Looks
  natural: boolean
  cost: Cost
}>()
const emit = defineEmits<{ change: [more: Partial<Place>, settled: boolean] }>()

const byHand = ref(false)
const grade = computed(() => props.place.grade)
const pictures = computed(() =>
  props.devices
    .filter((device) => device.kind === 'pages' || device.kind === 'slides')
    .map((device) => ({ value: device.id, label: device.name })),
)
const WAYS = [
  { value: 'as it is', label: 'As it is' },
  { value: 'soften', label: 'Soft' },
  { value: 'replace', label: 'Colour' },
  { value: 'picture', label: 'Picture' },
]
const HANDS = [
  ['brightness', 'Brightness'],
  ['contrast', 'Contrast'],
  ['warmth', 'Warmth'],
  ['saturation', 'Colour'],
] as const

function behind(more: Partial<Place['behind']>, settled = true) {
  emit('change', { behind: { ...props.place.behind, ...more } }, settled)
}
function stand(way: Place['behind']['way']) {
  behind({
    way,
    feed_id: way === 'picture' ? props.place.behind.feed_id || (pictures.value[0]?.value ?? '') : '',
  })
}
function change(more: Partial<Place['grade']>, settled = true) {
  emit('change', { grade: { ...grade.value, ...more } }, settled)
}
const same = (a: Place['grade'], b: Place['grade']) =>
  JSON.stringify({ ...a, framed: false }) === JSON.stringify({ ...b, framed: false })
const signed = (value: number) => `${value > 0 ? '+' : ''}${Math.round(value * 100)}`
</script>

<template>
  <div class="face" role="group" aria-label="The face">
    <h3>The face</h3>
    <p v-if="natural" class="look" role="status">Off: faces go out as they come. <kbd>E</kbd> in Teach.</p>
    <p v-else-if="cost.tooSlow" class="wrong" role="status">
      Too slow here: for a minute only its colours are changed.
    </p>
    <p v-else-if="cost.lowered" class="look" role="status">Eased, so that this computer keeps up.</p>
    <p v-else-if="cost.ms" class="soft small">
      Costs <span class="num">{{ cost.ms.toFixed(0) }} ms</span> a picture.
    </p>
    <div v-roving class="row" role="group" aria-label="A look to start from">
      <Button
        v-for="(look, name) in { 'As it comes': AS_IT_COMES, ...looks }"
        :key="name"
        size="small"
        :class="{ on: same(grade, look) }"
        :aria-pressed="same(grade, look)"
        @click="change({ ...look, framed: grade.framed })"
        >{{ name }}</Button
      >
    </div>
    <Checkbox :checked="grade.framed" @change="change({ framed: !grade.framed })"
      >Framed on the head by itself</Checkbox
    >
    <p class="soft small">Behind the person</p>
    <Segmented
      v-radios
      block
      size="small"
      :value="place.behind.way"
      :options="WAYS"
      aria-label="Behind the person"
      @change="(value) => stand(value as Place['behind']['way'])"
    />
    <label v-if="place.behind.way === 'replace'" class="row"
      >By
      <input
        type="color"
        :value="place.behind.colour.toLowerCase()"
        aria-label="Colour behind the person"
        @change="behind({ colour: ($event.target as HTMLInputElement).value.toUpperCase() })"
    /></label>
    <template v-if="place.behind.way === 'picture'">
      <ChoiceList
        v-if="pictures.length"
        label="Picture behind the person"
        small
        :value="place.behind.feed_id"
        :options="pictures"
        @change="(feed_id) => behind({ feed_id })"
      />
      <p v-else class="soft small">
        This kit has no picture yet: add one under <RouterLink to="/kit">Kit</RouterLink>.
      </p>
    </template>
    <Button size="small" class="more" :aria-expanded="byHand" @click="byHand = !byHand">{{
      byHand ? 'Less' : 'Light and colour by hand'
    }}</Button>
    <template v-if="byHand">
      <Checkbox :checked="grade.balanced" @change="change({ balanced: !grade.balanced })"
        >White balance by itself</Checkbox
      >
      <NumberSlider
        label="Even light"
        :value="grade.even"
        :min="0"
        :max="1"
        :step="0.1"
        :shown="grade.even === 0 ? 'none' : `${Math.round(grade.even * 100)}%`"
        @change="(even, settled) => change({ even }, settled)"
      />
      <NumberSlider
        label="More light"
        :value="place.behind.light"
        :min="0"
        :max="1"
        :step="0.1"
        :shown="place.behind.light === 0 ? 'none' : `${Math.round(place.behind.light * 100)}%`"
        @change="(light, settled) => behind({ light }, settled)"
      />
      <NumberSlider
        v-for="[key, label] in HANDS"
        :key="key"
        :label="label"
        :value="grade[key]"
        :min="-1"
        :max="1"
        :step="0.05"
        :shown="signed(grade[key])"
        @change="(value, settled) => change({ [key]: value }, settled)"
      />
    </template>
  </div>
</template>

<style scoped>
.face {
  display: grid;
  gap: 7px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
h3 {
  font-size: 14.5px;
  margin: 0;
}
.row {
  display: flex;
  gap: 6px;
  align-items: center;
  flex-wrap: wrap;
}
.on {
  border-color: var(--lapis);
  color: var(--lapis);
  background: var(--lapis-tint);
}
.small {
  font-size: 13.5px;
}
.more {
  justify-self: start;
}
.wrong {
  color: var(--carnelian);
  font-size: 14px;
}
.look {
  font-size: 13.5px;
}
</style>
