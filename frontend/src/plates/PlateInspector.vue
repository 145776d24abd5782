<script setup lang="ts">
import { Button, Input, Segmented } from 'ant-design-vue'
import { computed } from 'vue'
import type { Device, Plate } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import NumberSlider from '@/shared/NumberSlider.vue'
import { useRules } from '@/shared/rules'
import type { Place } from './plates'
import { chosenContent, LAYOUTS, newPlace, pictureChoices } from './says'

const props = defineProps<{ plate: Plate; devices: Device[]; unknown: number }>()
const emit = defineEmits<{ change: [plate: Plate, settled?: boolean]; add: [place: Place] }>()

const stored = useRules()
const pictured = computed(
  () => props.plate.places.filter((one) => one.content.kind === 'role' || one.content.kind === 'feed').length,
)
const more = computed(() => [{ value: '', label: 'Add a place for …' }, ...pictureChoices(props.devices)])

/** A picture behind all, which goes off with caption and frame. */
const isBackdrop = (one: Place) =>
  one.adorns && one.content.kind === 'feed' && one.rect.width === 1 && one.rect.height === 1
const backdrop = computed(() => {
  const first = props.plate.places[0]
  return first && isBackdrop(first) && first.content.kind === 'feed' ? first.content.feed_id : ''
})
function setBackdrop(id: string) {
  const rest = props.plate.places.filter((one, at) => at > 0 || !isBackdrop(one))
  const place: Place = {
    ...newPlace({ kind: 'feed', feed_id: id }),
    rect: { x: 0, y: 0, width: 1, height: 1 },
    fit: 'fill',
    adorns: true,
  }
  emit('change', { ...props.plate, places: id ? [place, ...rest] : rest })
}
function named(value: string | undefined) {
  const name = value?.trim()
  if (name) emit('change', { ...props.plate, name })
}
function add(value: string) {
  const content = chosenContent(value)
  if (content) emit('add', newPlace(content))
}
</script>

<template>
  <section class="card inspector" aria-label="The plate">
    <div>
      <Input
        :value="plate.name"
        :maxlength="60"
        aria-label="Name of the plate"
        @change="named($event.target.value)"
      />
      <ChoiceList
        label="How it is laid"
        small
        :value="plate.layout ?? ''"
        :options="LAYOUTS"
        @change="(value) => emit('change', { ...plate, layout: (value || null) as Plate['layout'] })"
      />
      <p v-if="unknown" class="wrong">
        {{ unknown === 1 ? 'One place shows a device' : `${unknown} places show devices` }} that this kit does
        not have: choose another.
      </p>
      <p v-else class="soft small">
        {{ plate.layout ? 'Arranged automatically. Drag to arrange by hand.' : 'Laid by hand.' }}
      </p>
    </div>
    <div>
      <ChoiceList
        label="Add a place"
        small
        value=""
        :options="pictured < (stored.rules?.max_pictures ?? 0) ? more : more.slice(0, 1)"
        @change="add"
      />
      <div class="row">
        <Button size="small" @click="emit('add', newPlace({ kind: 'caption', name: 'Your name', line: '' }))"
          >Caption</Button
        >
        <Button size="small" @click="emit('add', newPlace({ kind: 'frame', colour: '#23459B' }))"
          >Frame</Button
        >
        <Button size="small" @click="emit('add', newPlace({ kind: 'colour', colour: '#E6EAF6' }))"
          >Colour</Button
        >
      </div>
      <ChoiceList
        label="Background picture"
        small
        :value="backdrop"
        :options="[
          { value: '', label: 'No background picture' },
          ...devices.map((one) => ({ value: one.id, label: `Behind all: ${one.name}` })),
        ]"
        @change="setBackdrop"
      />
      <label class="ground"
        >Background
        <input
          type="color"
          :value="plate.background.toLowerCase()"
          @change="
            emit('change', { ...plate, background: ($event.target as HTMLInputElement).value.toUpperCase() })
          "
      /></label>
    </div>
    <div>
      <Segmented
        v-radios
        block
        :value="plate.fade_s > 0 ? 'fade' : 'cut'"
        :options="[
          { value: 'cut', label: 'Instant' },
          { value: 'fade', label: 'Fade' },
        ]"
        aria-label="How it comes"
        @change="(value) => emit('change', { ...plate, fade_s: value === 'fade' ? 0.4 : 0 })"
      />
      <NumberSlider
        v-if="plate.fade_s > 0"
        label="Fade"
        :value="plate.fade_s"
        :min="0.1"
        :max="1"
        :step="0.1"
        :shown="`${plate.fade_s.toFixed(1)} s`"
        @change="(value, settled) => emit('change', { ...plate, fade_s: value }, settled)"
      />
    </div>
  </section>
</template>

<style scoped>
.inspector {
  padding: 10px 12px;
  display: grid;
  grid-template-columns: 1fr 1fr 0.9fr;
  gap: 14px;
}
@media (max-width: 1180px) {
  .inspector {
    grid-template-columns: 1fr 1fr;
  }
}
.inspector > div {
  display: grid;
  gap: 8px;
  align-content: start;
  min-width: 0;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.ground {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  font-size: 14px;
}
input[type='color'] {
  width: 34px;
  height: 26px;
  padding: 1px;
  border: 1px solid var(--line);
  border-radius: 7px;
  background: var(--sheet);
}
.small {
  font-size: 13.5px;
}
.wrong {
  color: var(--carnelian);
  font-size: 14px;
}
</style>
