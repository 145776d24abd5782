<script setup lang="ts">
import { Button, Modal, Segmented } from 'ant-design-vue'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
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
import AudienceCard from './AudienceCard.vue'
import ClipBar from './ClipBar.vue'
import { useLoad } from './load'
import PageTurns from './PageTurns.vue'
import PlateStrip from './PlateStrip.vue'

const live = useLive()
const sentences = useSentences()
const closer = ref<string | null>(null)
const delayMs = ref<number | null>(null)
const BELOW_PX = 176 // tools and plates under the picture
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
/** The server is asked for the next one, not for a number: each press counts, however quick they come. */
async function putOn(body: { plate_id: string } | { number: number } | { by: 1 | -1 }) {
  await sentences.attempt(() => answer(api.PUT('/api/teach/plate', { body: { by: 0, ...body } })))
}
const choose = (plateId: string) => putOn({ plate_id: plateId })
async function adorn() {
  const adorns = plates.value.find((one) => one.id === plateOn.value)?.places.some((place) => place.adorns)
  if (!adorns) return sentences.say('Nothing on this plate to hide: it has no caption, frame or background.')
  const on = !(live.teach?.adorned ?? true)
  await sentences.attempt(() => answer(api.PUT('/api/plates/adorned', { body: { on } })))
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
useKeys('teach', {
  call: toggleCall,
  window: outgoing.open,
  next: () => putOn({ by: 1 }),
  previous: () => putOn({ by: -1 }),
  adorn,
  plate: (event) => putOn({ number: Number(event.key) }),
})
</script>

<template>
  <main class="screen teach">
    <section ref="left" class="left" aria-label="Outgoing">
      <CartoucheFrame :live="live.state?.going_out" :style="{ width: `${pictureWidth + 18}px` }">
        <div class="picture">
          <SurfaceView
            v-if="roomWide"
            surface="outgoing"
            :width="drawnWidth"
            label="The outgoing picture"
            @drawn="noteDelay"
          />
        </div>
      </CartoucheFrame>
      <div
        v-roving
        class="tools"
        role="toolbar"
        aria-label="The call"
        :style="{ maxWidth: `${pictureWidth + 18}px` }"
      >
        <Button :type="'primary'" size="large" :ghost="running" @click="toggleCall"
          >{{ running ? 'Going out · stop practice call' : 'Start practice call' }} <kbd>G</kbd></Button
        >
        <Button size="large" @click="outgoing.open">Open the outgoing window <kbd>O</kbd></Button>
        <span class="fill" />
        <Segmented
          v-radios
          :value="live.teach?.outgoing_size"
          :options="SIZES"
          aria-label="Outgoing size"
          @change="resize"
        />
      </div>
      <ClipBar
        v-if="clip && live.feeds.get(clip.id)"
        :device="clip"
        :feed="live.feeds.get(clip.id)!"
        :files="live.kit!.files[clip.id]!"
      />
      <PageTurns v-if="turned" :device="turned" :pages="live.kit?.files[turned.id]?.pages ?? 0" />
      <PlateStrip :plates="plates" :rects="live.teach?.rects ?? {}" :on="plateOn" @choose="choose" />
    </section>
    <aside aria-label="Through their eyes">
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
      <p class="soft num figures">
        <span>{{ Math.round(live.state?.outgoing.fps ?? 0) }} frames/s</span>
        <span v-if="delayMs !== null" title="From the camera to this screen"
          >{{ Math.round(delayMs) }} ms</span
        >
        <span>{{ live.state?.outgoing.width }}×{{ live.state?.outgoing.height }}</span>
      </p>
      <VerdictChip v-for="device in live.away" :key="device.id" kind="wrong" role="alert"
        >{{ device.name }}: no picture. <RouterLink to="/kit">Open Kit</RouterLink></VerdictChip
      >
      <VerdictChip v-for="role in unserved" :key="role" kind="wrong" role="alert"
        >No camera is the {{ role }}. <RouterLink to="/kit">Choose one</RouterLink></VerdictChip
      >
      <CoversWriting />
      <VerdictChip v-if="trouble" kind="look" role="status">{{ trouble }}</VerdictChip>
      <VerdictChip v-if="load" kind="look" role="status">{{ load }}</VerdictChip>
    </aside>
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
.tools {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
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
