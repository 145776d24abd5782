<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
import { useKeys } from '@/shared/keys'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import VerdictChip from '@/shared/VerdictChip.vue'
import CoversWriting from '@/shared/CoversWriting.vue'
import EmptyScreen from '@/shared/EmptyScreen.vue'
import PlaceInspector from './PlaceInspector.vue'
import PlateEditor from './PlateEditor.vue'
import PlateInspector from './PlateInspector.vue'
import PlateList from './PlateList.vue'
import { usePlates } from './plates'

const live = useLive()
const plates = usePlates()
const sentences = useSentences()
const { view, chosen, plate, place, placeAt } = plates
const devices = computed(() => live.kit?.devices ?? [])
const inner = ref(false)
watch(placeAt, () => (inner.value = false))
const BELOW_PX = 300
const room = ref<HTMLElement>()
const { width: roomWide, height: roomHigh } = useElementSize(room)
const pictureWidth = computed(() =>
  Math.max(320, Math.min(roomWide.value - 31, ((roomHigh.value - BELOW_PX) * 16) / 9)),
)
const on = computed(() => chosen.value?.on ?? false)
const surface = computed(() => (on.value ? 'outgoing' : `plate:${plate.value?.id}`))

function hold(at: number, deviceId: string) {
  plates.placeAt.value = at
  const device = devices.value.find((one) => one.id === deviceId)
  if (device) plates.changePlace(at, { content: { kind: 'feed', feed_id: device.id } })
}
function putOn() {
  if (on.value) sentences.say('This plate is outgoing already.')
  else if (plate.value) void plates.putOn(plate.value.id)
}
function step(by: 1 | -1) {
  const all = view.value?.plates ?? []
  const at = all.findIndex((one) => one.plate.id === plate.value?.id)
  const next = all[(at + by + all.length) % all.length]
  if (next) plates.choose(next.plate.id)
}
function chooseByNumber(number: number) {
  const one = view.value?.plates[number - 1]
  if (one) plates.choose(one.plate.id)
  else sentences.say(`This lesson has no plate number ${number}.`)
}
function removePlace() {
  if (placeAt.value === null) sentences.say('Choose the place that you want to remove.')
  else plates.removePlace(placeAt.value)
}
useKeys('plates', {
  undo: plates.undo,
  redo: plates.redo,
  out: putOn,
  adorn: () => plates.adorn(!view.value?.adorned),
  next: () => step(1),
  previous: () => step(-1),
  remove: removePlace,
  leave: () => (placeAt.value = null),
  choose: (event) => chooseByNumber(Number(event.key)),
})
</script>

<template>
  <main v-if="view && !view.plates.length" class="screen">
    <EmptyScreen
      title="Plates"
      says="A plate says what stands where on the outgoing picture. Six come with the first lesson, and that with the first camera."
      press="Choose a camera"
    />
  </main>
  <main v-else class="screen plates">
    <Modal
      :open="!!plates.asked.value"
      title="Plates of the same name"
      :footer="null"
      @cancel="plates.asked.value = null"
    >
      <p>This lesson has {{ plates.asked.value?.doubled.map((name) => `“${name}”`).join(', ') }} already.</p>
      <div class="asked">
        <Button type="primary" @click="plates.bring(plates.asked.value!.body, 'replace')"
          >Replace {{ plates.asked.value?.doubled.length === 1 ? 'it' : 'them' }}</Button
        >
        <Button @click="plates.bring(plates.asked.value!.body, 'add')">Add beside, numbered</Button>
        <Button @click="plates.asked.value = null">Cancel</Button>
      </div>
    </Modal>
    <PlateList
      v-if="view"
      :plates="view.plates"
      :chosen="plate?.id ?? null"
      :ready-made="view.ready_made"
      @choose="plates.choose"
      @order="plates.order"
      @add="plates.add"
      @remove="plates.remove"
      @import="plates.importFile"
    />
    <section ref="room" class="middle" aria-label="The plate as it goes out">
      <CartoucheFrame :live="on && live.state?.going_out" :style="{ width: `${pictureWidth + 18}px` }">
        <PlateEditor
          v-if="chosen"
          :view="chosen"
          :at="placeAt"
          :devices="devices"
          :surface="surface"
          :inner="inner"
          @choose="(at) => (placeAt = at)"
          @lay="plates.lay"
          @focus="(at, focus, settled) => plates.changePlace(at, { focus }, settled)"
          @hold="hold"
        />
      </CartoucheFrame>
      <div v-roving class="tools" role="toolbar" aria-label="This plate">
        <Button type="primary" :disabled="on" @click="putOn"
          >{{ on ? 'Outgoing' : 'Make outgoing' }} <kbd>G</kbd></Button
        >
        <Button :disabled="!view?.can_undo" @click="plates.undo">Undo <kbd>Z</kbd></Button>
        <Button :disabled="!view?.can_redo" @click="plates.redo">Redo <kbd>Y</kbd></Button>
        <Button @click="plates.adorn(!view?.adorned)"
          >{{ view?.adorned ? 'Caption and frame off' : 'Caption and frame on' }} <kbd>A</kbd></Button
        >
      </div>
      <div v-roving class="feeds" role="group" aria-label="Drop one of these on a place">
        <span class="soft">Drop on a place:</span>
        <span
          v-for="device in devices"
          :key="device.id"
          class="feed"
          draggable="true"
          @dragstart="$event.dataTransfer?.setData('application/x-cartouche-device', device.id)"
          >{{ device.name }}</span
        >
        <VerdictChip v-if="!on" kind="look">Preview only</VerdictChip>
      </div>
      <CoversWriting v-if="on" />
      <PlateInspector
        v-if="plate && chosen"
        :plate="plate"
        :devices="devices"
        :unknown="chosen.unknown"
        @change="plates.change"
        @add="plates.addPlace"
      />
    </section>
    <aside>
      <PlaceInspector
        v-if="place && chosen && placeAt !== null"
        :key="placeAt"
        :place="place"
        :at="placeAt"
        :count="plate?.places.length ?? 0"
        :box="chosen.rects[placeAt] ?? place.rect"
        :devices="devices"
        :missing="chosen.missing_signs"
        :looks="view?.looks ?? {}"
        :natural="view?.natural ?? false"
        :cost="{
          ms: live.state?.outgoing.behind_ms ?? null,
          lowered: live.state?.outgoing.behind_lowered ?? false,
          tooSlow: live.state?.outgoing.behind_too_slow ?? false,
        }"
        :inner="inner"
        @change="(more, settled) => plates.changePlace(placeAt!, more, settled ?? true)"
        @lay="(box) => plates.lay(placeAt!, box, true)"
        @restack="(by) => plates.restack(placeAt!, by)"
        @remove="plates.removePlace(placeAt!)"
        @inner="(on) => (inner = on)"
      />
      <p v-else class="soft hint">
        Choose a place in the picture to change it. <kbd>Tab</kbd> walks over them, arrows move the chosen
        one, with <kbd>Shift</kbd> they resize it.
      </p>
    </aside>
  </main>
</template>

<style scoped>
.asked {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
.plates {
  display: grid;
  grid-template-columns: 222px minmax(0, 1fr) 290px;
  gap: 18px;
}
.middle {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
  min-width: 0;
}
.tools,
.feeds {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: center;
}
.feed {
  padding: 4px 11px;
  border: 1px solid var(--line);
  border-radius: 9px;
  background: var(--sheet);
  font-size: 14px;
  cursor: grab;
}
aside {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
  overflow: auto;
}
.hint {
  font-size: 14px;
  padding: 0 4px;
}
</style>
