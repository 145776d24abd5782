<script setup lang="ts">
import { Button, Modal, Segmented } from 'ant-design-vue'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, answer } from '@/api/client'
import CoversWriting from '@/shared/CoversWriting.vue'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
import { useKeys } from '@/shared/keys'
import { useLive } from '@/shared/live'
import { useOutgoing } from '@/shared/outgoing'
import { useSentences } from '@/shared/sentences'
import SurfaceView from '@/shared/SurfaceView.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import { LEARNERS } from '@/sound/words'
import type { Drawn } from '@/shared/surface'
import CloseDown from '@/after/CloseDown.vue'
import AudienceCard from './AudienceCard.vue'
import ClipBar from './ClipBar.vue'
import { useLoad } from './load'
import PageTurns from './PageTurns.vue'
import MorePanel from './MorePanel.vue'
import RecordBar from './RecordBar.vue'
import PlateStrip from './PlateStrip.vue'
import SheetStrip from './SheetStrip.vue'
import StateLine from './StateLine.vue'
import StepsCard from './StepsCard.vue'
import StepsEditor from './StepsEditor.vue'
import ToolRow from './ToolRow.vue'
import { useTools } from './tools'
import { useActionKeys } from './useActionKeys'
import { useMediaKeys } from './useMediaKeys'
import { useLook } from './look'
import InkRow from './InkRow.vue'
import { useInk } from './ink'
import { useHand } from './useHand'

const live = useLive()
const sentences = useSentences()
const tools = useTools()
const ink = useInk()
const more = ref(false)
const editing = ref(false)
const closer = ref<string | null>(null)
const delayMs = ref<number | null>(null)
const BELOW_PX = 232 // state, tools and plates under the picture
const TURNS_PX = 56
const left = ref<HTMLElement>()
const { width: roomWide, height: roomHigh } = useElementSize(left)
const turned = computed(() => live.onPlate.find((device) => (live.kit?.files[device.id]?.pages ?? 0) > 1))
const clip = computed(() => live.onPlate.find((device) => live.feeds.get(device.id)?.clip))
const pictureWidth = computed(() =>
  Math.max(
    320,
    Math.min(
      roomWide.value - 31,
      ((roomHigh.value - BELOW_PX - (turned.value ? TURNS_PX : 0) - (clip.value ? TURNS_PX : 0) - 18) * 16) /
        9,
    ),
  ),
)
const drawnWidth = computed(() => Math.ceil((pictureWidth.value * window.devicePixelRatio) / 64) * 64)

const running = computed(() => live.state?.call_running ?? false)
const load = useLoad(
  computed(() => Math.round(live.state?.outgoing.fps ?? 0)),
  computed(() => live.teach?.outgoing_size),
)
/** Roles that the outgoing plate shows and no device of the kit has. */
const unserved = computed(() => {
  const plate = plates.value.find((one) => one.id === plateOn.value)
  const roles = (plate?.places ?? []).flatMap(({ content }) =>
    content.kind === 'role' ? [content.role] : [],
  )
  const served = new Set((live.kit?.devices ?? []).map((device) => device.serves))
  return live.kit ? [...new Set(roles)].filter((role) => !served.has(role)) : []
})
const trouble = computed(() => live.state?.outgoing.trouble ?? live.state?.call_trouble ?? null)
/** All that is wrong or worth a look, the worst first: one of them is shown. */
const troubles = computed(() => [
  ...live.away.map((device) => ({
    kind: 'wrong' as const,
    says: `${device.name}: no picture.`,
    open: '/kit',
    opens: 'Open Kit',
  })),
  ...unserved.value.map((role) => ({
    kind: 'wrong' as const,
    says: `No camera is the ${role}.`,
    open: '/kit',
    opens: 'Choose one',
  })),
  ...[trouble.value, live.state?.outgoing.lowered ?? load.value].flatMap((says) =>
    says ? [{ kind: 'look' as const, says }] : [],
  ),
])
const hears = computed(() => live.state?.learners_hear ?? null)
const plates = computed(() => live.teach?.plates ?? [])
const plateOn = computed(() => live.state?.outgoing.plate_id ?? null)
const seen = computed(() => live.state?.audiences.find((audience) => audience.id === closer.value))
const SIZES = [
  { value: '720p', label: '1280×720' },
  { value: '1080p', label: '1920×1080' },
]

function noteDelay(drawn: Drawn) {
  if (drawn.delayMs !== null) delayMs.value = (delayMs.value ?? drawn.delayMs) * 0.95 + drawn.delayMs * 0.05
}
async function choose(plateId: string) {
  await sentences.attempt(() => answer(api.PUT('/api/teach/plate', { body: { plate_id: plateId, by: 0 } })))
}
async function toggleCall() {
  const call = running.value ? api.POST('/api/teach/call/stop') : api.POST('/api/teach/call/start')
  await sentences.attempt(() => answer(call))
}
async function resize(size: string | number) {
  await sentences.attempt(() =>
    answer(api.PUT('/api/teach/outgoing', { body: { size: size as '720p' | '1080p' } })),
  )
  await live.refresh()
}
const outgoing = useOutgoing()
useKeys('teach', { call: toggleCall, window: outgoing.open, ink: ink.toggle })
useActionKeys()
useMediaKeys()
const picture = ref<HTMLElement>()
useHand(picture, ink) // before the closer look: a hand that draws moves nothing else
useLook(picture)
</script>

<template>
  <main class="screen teach">
    <section ref="left" class="left" aria-label="Outgoing">
      <CartoucheFrame :live="live.state?.going_out" :style="{ width: `${pictureWidth + 18}px` }">
        <div ref="picture" class="picture" :class="{ draws: ink.on }">
          <SurfaceView
            v-if="roomWide"
            surface="outgoing"
            :width="drawnWidth"
            label="The outgoing picture"
            @drawn="noteDelay"
          />
        </div>
      </CartoucheFrame>
      <div class="beneath" :style="{ maxWidth: `${pictureWidth + 18}px` }">
        <StateLine :troubles="troubles" />
        <span class="fill" />
        <RecordBar />
        <div v-roving class="tools" role="toolbar" aria-label="The call">
          <Button type="primary" :ghost="running" @click="toggleCall"
            >{{ running ? 'Stop practice call' : 'Start practice call' }} <kbd>G</kbd></Button
          >
        </div>
      </div>
      <ToolRow @more="more = true" />
      <ClipBar
        v-if="clip && live.feeds.get(clip.id)"
        :device="clip"
        :feed="live.feeds.get(clip.id)!"
        :files="live.kit!.files[clip.id]!"
      />
      <PageTurns v-if="turned" :device="turned" :pages="live.kit?.files[turned.id]?.pages ?? 0" />
      <InkRow v-if="ink.on" />
      <div v-else class="strips">
        <PlateStrip :plates="plates" :rects="live.teach?.rects ?? {}" :on="plateOn" @choose="choose" />
        <SheetStrip />
      </div>
    </section>
    <aside aria-label="Through their eyes">
      <StepsCard @edit="editing = true" />
      <div v-if="tools.view?.held && tools.view.held.by !== 'sheet'" class="card underneath">
        <SurfaceView
          :surface="`page:${tools.view.held.device_id}`"
          :width="144"
          :fps="8"
          label="The page as it lies there now"
        />
        <p><b>The page now</b><br /><span class="soft">Only you see it.</span></p>
      </div>
      <h2>Through their eyes</h2>
      <AudienceCard
        v-for="audience in live.state?.audiences ?? []"
        :key="audience.id"
        :audience="audience"
        :running="running"
        :going-out="live.state?.going_out ?? false"
        @closer="closer = audience.id"
      />
      <p v-if="hears" class="hears" role="status">
        <VerdictChip :kind="LEARNERS[hears.kind]?.kind ?? 'unknown'">{{
          LEARNERS[hears.kind]?.word
        }}</VerdictChip>
        {{ hears.says }}
      </p>
      <div class="figures">
        <span class="soft num">{{ Math.round(live.state?.outgoing.fps ?? 0) }} frames/s</span>
        <span v-if="delayMs !== null" class="soft num" title="From the camera to this screen"
          >{{ Math.round(delayMs) }} ms</span
        >
        <span class="fill" />
        <CloseDown />
      </div>
      <Button @click="outgoing.open">Open the outgoing window <kbd>O</kbd></Button>
      <Segmented
        v-radios
        :value="live.teach?.outgoing_size"
        :options="SIZES"
        aria-label="Outgoing size"
        @change="resize"
      />
      <CoversWriting />
    </aside>
    <MorePanel v-model:open="more" />
    <StepsEditor v-model:open="editing" />
    <Modal
      :open="!!seen && running"
      :title="`${seen?.name}: as it stands there`"
      :footer="null"
      :width="seen ? seen.tile_width_px + 48 : 520"
      @cancel="closer = null"
    >
      <div
        v-if="seen"
        class="real"
        :style="{
          width: `${seen.tile_width_px}px`,
          maxWidth: '100%',
          aspectRatio: `${seen.tile_width_px}/${seen.tile_height_px}`,
        }"
      >
        <SurfaceView
          :surface="`audience:${seen.id}`"
          :width="seen.tile_width_px"
          :fps="15"
          :label="`What ${seen.name} gets, full size`"
        />
      </div>
      <p v-if="seen" class="soft real-says">
        <span class="num">{{ seen.tile_width_px }}×{{ seen.tile_height_px }}</span> on their screen, seen from
        <span class="num">{{ Math.round(seen.distance_mm / 10) }} cm</span>, after the call’s codec.
      </p>
    </Modal>
  </main>
</template>

<style scoped>
.teach {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 22px;
}
.hears {
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 13.5px;
}
.hears :deep(.chip) {
  flex: none;
  white-space: nowrap;
}
.left {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
  min-width: 0;
}
.picture {
  aspect-ratio: 16/9;
}
.draws {
  cursor: crosshair;
  touch-action: none;
}
.tools {
  display: flex;
  gap: 8px;
  align-items: center;
  flex: none;
}
.beneath {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 40px;
}
.beneath .ant-btn {
  min-height: 40px;
}
.strips {
  display: flex;
  gap: 14px;
  align-items: start;
  min-width: 0;
}
.strips > :first-child {
  flex: 1;
  min-width: 0;
}
.underneath {
  display: grid;
  grid-template-columns: 144px 1fr;
  gap: 12px;
  padding: 8px 10px;
  align-items: center;
  min-height: 96px;
  font-size: 13.5px;
}
.fill {
  flex: 1;
}
aside {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
  overflow: auto;
}
.figures {
  display: flex;
  align-items: center;
  gap: 18px;
  font-size: 13px;
}
.real-says {
  margin-top: 8px;
}
@media (max-width: 1180px) {
  .teach {
    grid-template-columns: minmax(0, 1fr) 312px;
    gap: 12px;
  }
}
</style>
