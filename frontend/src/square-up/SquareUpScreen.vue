<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { useElementSize, useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useKeys } from '@/shared/keys'
import { useControls } from '@/shared/controls'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import SurfaceView from '@/shared/SurfaceView.vue'
import EmptyScreen from '@/shared/EmptyScreen.vue'
import BenchDesk from './BenchDesk.vue'
import CornerEditor from './CornerEditor.vue'
import CorrectionChain from './CorrectionChain.vue'
import FirstLook from './FirstLook.vue'
import LightPaths from './LightPaths.vue'
import PagePicture from './PagePicture.vue'
import ReadingCards from './ReadingCards.vue'
import SmallPrint from './SmallPrint.vue'
import WayChoices from './WayChoices.vue'
import { useChain } from './chain'
import { usePresses } from './presses'
import { cardSays } from './says'
import { at } from '@/shared/at'

const live = useLive()
const sentences = useSentences()
const route = useRoute()
const router = useRouter()
const devices = computed(() =>
  (live.kit?.devices ?? []).filter((device) => device.rig !== 'at-face' || device.serves === 'page'),
)
const deviceId = computed(
  () => (route.params.deviceId as string) || live.pageDevice?.id || devices.value[0]?.id,
)
const device = computed(() => live.kit?.devices.find((one) => one.id === deviceId.value))
const guest = computed(() => (deviceId.value ? live.kit?.guests[deviceId.value] : undefined))
const corrected = useChain(computed(() => device.value?.id))
const { view, chain, part, keystone, find, wayUp, undo, redo, paper, post, framing, board } = corrected
const controls = useControls(device, guest)
const take = usePresses(corrected, controls.focus)
const more = useLocalStorage('square-up-more', false) // how deep this teacher looks

const BESIDES_PX = 356 // heading and light path, and what of it is not the light path
const SAID_PX = 190 // what stands below the page at first look
const HEADING_PX = 60
const room = ref<HTMLElement>()
const { width: roomWide, height: roomHigh } = useElementSize(room)
const below = ref<HTMLElement>()
const { height: pathsHigh } = useElementSize(below)
const besides = computed(() => (more.value ? BESIDES_PX : SAID_PX))
const pageHigh = computed(() => roomHigh.value - Math.max(besides.value, HEADING_PX + pathsHigh.value))
const comparing = ref(false)
const rawAspect = computed(() => (view.value?.feed_width ?? 16) / (view.value?.feed_height ?? 9))
const card = computed(() => view.value?.card ?? null)
const figures = ref(false)
const said = computed(() => live.feeds.get(deviceId.value ?? '')?.sentence ?? null)
function leave() {
  if (chain.value?.square.on) part('square', { on: false })
  else sentences.say('The picture is left as it is already.')
}
const useCard = () => post('/card')

useKeys('squareUp', {
  find,
  card: useCard,
  leave,
  undo,
  redo,
  compare: () => (comparing.value = true),
  whole: () => framing('whole'),
  up: () => framing('previous'),
  down: () => framing('next'),
})
useEventListener(document, 'keyup', (event) => {
  if (event.key.toLowerCase() === 'c') comparing.value = false
})
useEventListener(window, 'blur', () => (comparing.value = false))
</script>

<template>
  <main v-if="live.kit && !device" class="screen">
    <EmptyScreen
      title="Square up"
      :says="
        deviceId
          ? 'This camera is not in this kit any more.'
          : 'Here a camera’s picture is turned the right way round and made straight. There is no camera over a page yet.'
      "
      press="Choose a camera"
    />
  </main>
  <main v-else class="screen square-up" :class="{ more }">
    <section class="camera">
      <div class="head">
        <h1>Camera view</h1>
        <Segmented
          v-if="devices.length > 1"
          v-radios
          size="small"
          :value="deviceId"
          :options="devices.map((one) => ({ value: one.id, label: one.name }))"
          aria-label="Which camera"
          @change="(id) => router.replace(`/square-up/${id}`)"
        />
        <span v-else class="soft">{{ device?.name }}</span>
      </div>
      <div v-if="device" class="raw" :style="{ aspectRatio: rawAspect, '--aspect': rawAspect }">
        <SurfaceView
          :surface="`raw:${device.id}`"
          :width="760"
          :fps="20"
          label="The raw picture with four corners"
        />
        <CornerEditor
          v-if="chain && view?.feed_width"
          :corners="chain.square.corners"
          :on="chain.square.on"
          :aspect="rawAspect"
          @move="(corners, settled) => part('square', { corners, on: true, follow: false }, settled)"
        />
      </div>
      <div v-roving class="presses" role="toolbar" aria-label="Straighten">
        <Button type="primary" @click="find">Square it up <kbd>Q</kbd></Button>
        <Button v-if="more" @click="useCard">Use the set-up card <kbd>K</kbd></Button>
        <Button :disabled="!chain?.square.on" @click="leave">Leave as it is <kbd>L</kbd></Button>
        <BenchDesk v-if="device?.kind === 'bench' && !more" :device-id="device.id" />
      </div>
      <WayChoices v-if="device && !more" :surface="`page:${device.id}`" @choose="wayUp" />
      <div v-if="more" v-roving class="also soft">
        <span
          >Print the card: <a :href="at('/api/card/A4.pdf')" target="_blank">A4</a> ·
          <a :href="at('/api/card/Letter.pdf')" target="_blank">Letter</a> ·
          <a :href="at('/api/card/A4.png')" target="_blank">show it</a></span
        >
        <Button v-if="view?.last_time" size="small" type="link" @click="post('/last-time')"
          >As last time</Button
        >
        <BenchDesk v-if="device?.kind === 'bench'" :device-id="device.id" />
      </div>
      <p v-if="card" class="card told" role="status">
        {{ cardSays(card) }}
        <Button size="small" type="link" :aria-expanded="figures" @click="figures = !figures">{{
          figures ? 'Hide the figures' : 'Figures'
        }}</Button>
        <span v-if="figures">
          {{ card.paper }}, {{ card.mirrored ? 'mirrored' : 'not mirrored' }},
          {{ Math.round(card.tilt_deg) }}° off straight above, {{ card.px_per_mm_min.toFixed(1) }} px/mm, lens
          {{ card.distortion_percent.toFixed(1) }}%, edges {{ card.rise_px.toFixed(1) }} px wide, exposure
          {{ card.exposure }}, measured in {{ Math.round(card.took_ms) }} ms.
        </span>
      </p>
      <p v-if="said" class="card told" role="status">{{ said }}</p>
      <template v-if="view && more">
        <ReadingCards :view="view" :device="device" :guest="guest" />
        <SmallPrint :view="view" @take="take" />
      </template>
    </section>
    <section v-if="more" class="chain">
      <div class="head">
        <h1>Corrections</h1>
      </div>
      <CorrectionChain
        v-if="view"
        :view="view"
        @part="part"
        @keystone="keystone"
        @paper="paper"
        @framing="framing"
        @unbend="post('/unbend')"
        @turn="(quarters) => wayUp(quarters, false)"
      />
    </section>
    <section ref="room" class="result">
      <div class="head">
        <h1>Straightened page</h1>
        <span class="soft compare">hold <kbd>C</kbd> to compare</span>
        <span v-roving class="steps">
          <Button size="small" :disabled="!view?.can_undo" @click="undo">Undo <kbd>Z</kbd></Button>
          <Button size="small" :disabled="!view?.can_redo" @click="redo">Redo <kbd>Y</kbd></Button>
          <Button size="small" :aria-expanded="more" @click="more = !more">{{
            more ? 'Less' : 'More'
          }}</Button>
        </span>
      </div>
      <div>
        <PagePicture
          v-if="view"
          :view="view"
          :comparing="comparing"
          :room-wide="roomWide"
          :room-high="pageHigh"
          :live="live.state?.going_out ?? false"
          @frame="(values, settled) => part('frame', values, settled)"
        />
      </div>
      <div ref="below" class="below">
        <FirstLook v-if="view && !more" :view="view" :can-refocus="controls.canRefocus.value" @take="take" />
        <LightPaths
          v-if="view && more"
          :view="view"
          @flip="wayUp(0, true)"
          @turn="(quarters) => wayUp(quarters, false)"
          @board="board"
        />
      </div>
    </section>
  </main>
</template>

<style scoped>
.square-up {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 28px;
}
.square-up.more {
  grid-template-columns: minmax(0, 1.33fr) 276px minmax(0, 1.1fr);
  gap: 20px;
}
.compare {
  flex: 1;
  text-align: right;
  white-space: nowrap;
}
.below {
  margin-top: 12px;
}
section {
  min-height: 0;
  min-width: 0;
}
h1 {
  font-size: 15px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  height: 30px;
  margin-bottom: 8px;
  gap: 8px;
}
.raw {
  position: relative;
  max-width: calc(
    (100vh - 440px) * var(--aspect)
  ); /* an upright picture leaves room for what is said of it */
  margin-inline: auto;
  border: 1px solid var(--line);
  border-radius: 14px;
}
.raw :deep(.surface) {
  border-radius: 13px;
}
.presses {
  display: flex;
  gap: 6px;
  margin: 10px 0 6px;
  flex-wrap: wrap;
}
.camera,
.chain {
  overflow-y: auto;
  overflow-x: hidden;
}
.result {
  display: flex;
  flex-direction: column;
}
.below {
  flex: none;
}
.head h1 {
  white-space: nowrap;
}
.steps {
  display: flex;
  gap: 4px;
}
.steps .ant-btn {
  padding-inline: 5px;
  font-size: 13.5px;
}
.presses :deep(select),
.also :deep(select) {
  width: auto;
}
.presses :deep(select) {
  margin-left: auto;
}
.also {
  display: flex;
  justify-content: space-between;
  align-items: center;
  flex-wrap: wrap;
  gap: 4px 12px;
  font-size: 13.5px;
  margin-bottom: 8px;
}
.told {
  padding: 6px 12px;
  margin-bottom: 8px;
  font-size: 13.5px;
}
.result {
  overflow-y: auto;
}
@media (max-width: 1500px) {
  .more .compare {
    display: none; /* the key stands under ? */
  }
}
@media (max-width: 1180px) {
  .presses .ant-btn {
    padding-inline: 7px;
    font-size: 13.5px;
  }
  .presses kbd,
  .more .steps kbd {
    display: none;
  }
  .presses {
    flex-wrap: nowrap;
    gap: 4px;
    margin: 6px 0 4px;
  }
  .square-up.more {
    grid-template-columns: minmax(0, 1.15fr) 256px minmax(0, 1fr);
    gap: 14px;
  }
}
</style>
