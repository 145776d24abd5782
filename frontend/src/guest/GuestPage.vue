<script setup lang="ts">
import { Button, ConfigProvider } from 'ant-design-vue'
import { computed, ref, watchEffect } from 'vue'
import BoundSlider from '@/shared/BoundSlider.vue'
import EnterCode from '@/shared/EnterCode.vue'
import { theme } from '@/shared/theme'
import LensChoice from './LensChoice.vue'
import { AWAKE_SENTENCES, holdWay } from './phone'
import { Pinch } from './pinch'
import { guestSays } from './says'
import { useSession } from './session'

const session = useSession()
const {
  known,
  refused,
  phase,
  answers,
  state,
  stream,
  lenses,
  lensId,
  upright,
  controls,
  power,
  microphone,
} = session
const video = ref<HTMLVideoElement>()
watchEffect(() => {
  if (video.value) video.value.srcObject = stream.value
})
const says = computed(() => guestSays(phase.value, answers.value, state.value))
const zoom = computed(() => controls.settings.zoom ?? 1)
const span = computed(() => controls.spans.zoom)
const pinch = new Pinch(
  () => span.value,
  () => zoom.value,
  (wanted) => void session.set({ zoom: wanted }),
)
const batteryWords = computed(() => {
  if (!power.value) return 'Battery: this browser does not tell'
  const share = `${Math.round(100 * power.value.level)}%`
  return power.value.charging ? `Battery ${share}, charging` : `Battery ${share}`
})
const lowBattery = computed(() => power.value && power.value.level < 0.2 && !power.value.charging)

const code = decodeURIComponent(location.hash.slice(1))
if (code) {
  history.replaceState(null, '', location.pathname) // a reload must not try a used code
  if (!known.value) void session.come(code)
}
async function hold(way: boolean) {
  await holdWay(way)
  await session.hold(way)
}
</script>

<template>
  <ConfigProvider :theme="theme">
    <main>
      <EnterCode
        v-if="!known"
        title="Bring this camera into the lesson"
        press="Bring it in"
        :refused="refused"
        @come="session.come"
      >
        Your picture goes to the teacher’s computer and may be shown to learners. The microphone stays off
        until it is switched on. The browser may warn once: choose Advanced or Show details, then continue.
      </EnterCode>
      <template v-else>
        <section class="state" :class="says.kind" role="status">
          <span class="mark" aria-hidden="true" />
          <div>
            <h1>{{ says.words }}</h1>
            <p v-if="says.sentence">{{ says.sentence }}</p>
          </div>
          <Button v-if="says.press" type="primary" size="large" @click="session.start()">{{
            says.press
          }}</Button>
        </section>
        <video
          ref="video"
          autoplay
          muted
          playsinline
          aria-label="What this camera sees"
          @pointerdown="pinch.down"
          @pointermove="pinch.move"
          @pointerup="pinch.up"
          @pointercancel="pinch.up"
        />
        <label v-if="span" class="zoom"
          ><span>Zoom</span>
          <BoundSlider
            label="Zoom"
            :value="zoom"
            :min="span.min"
            :max="span.max"
            :step="span.step || 0.1"
            @change="(value) => session.set({ zoom: value })"
          />
          <span class="num">{{ (zoom / (span.min || 1)).toFixed(1) }}×</span></label
        >
        <div class="presses">
          <LensChoice
            :lenses="lenses"
            :current="lensId"
            :look="session.lookThroughEach"
            @choose="session.choose"
          />
          <Button v-if="controls.canRefocus" size="large" @click="session.refocus">Refocus</Button>
          <Button
            v-if="controls.spans.torch"
            size="large"
            :aria-pressed="controls.settings.torch === 1"
            @click="session.set({ torch: controls.settings.torch ? 0 : 1 })"
            >{{ controls.settings.torch ? 'Light off' : 'Light on' }}</Button
          >
          <Button size="large" @click="hold(!upright)">{{
            upright ? 'Switch to landscape' : 'Switch to portrait'
          }}</Button>
          <Button size="large" @click="session.listen(microphone !== 'on')">{{
            microphone === 'on' ? 'Microphone off' : 'Microphone on'
          }}</Button>
        </div>
        <ul class="facts">
          <li :class="{ low: lowBattery }">
            {{ batteryWords }}<template v-if="lowBattery">: plug it in</template>
          </li>
          <li>{{ AWAKE_SENTENCES[session.awake.state] ?? 'The screen stays on for the lesson' }}</li>
          <li v-if="!span && phase === 'sending'">
            This lens has no zoom of its own; zoom on the computer, under Square up
          </li>
          <li>
            {{
              microphone === 'on'
                ? 'The microphone is on'
                : microphone === 'none'
                  ? 'No microphone was allowed'
                  : 'The microphone is off'
            }}
          </li>
        </ul>
        <Button class="leave" type="text" @click="session.go">Leave the lesson</Button>
      </template>
    </main>
  </ConfigProvider>
</template>

<style scoped>
main {
  max-width: 560px;
  width: 100%;
  margin: 0 auto;
  padding: max(14px, env(safe-area-inset-top)) 14px max(14px, env(safe-area-inset-bottom));
  display: grid;
  gap: 12px;
  align-content: start;
}
.state {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
  padding: 14px 16px;
  border-radius: 14px;
  border: 1px solid var(--line);
  background: var(--sheet);
}
.state div {
  flex: 1;
  min-width: 200px;
}
.state h1 {
  font-size: 21px;
}
.mark {
  width: 18px;
  height: 18px;
  border-radius: 50%;
  flex: none;
}
.holds .mark {
  background: var(--malachite);
}
.look .mark {
  background: var(--ochre);
  border-radius: 3px;
  rotate: 45deg;
}
.wrong .mark {
  background: var(--carnelian);
  border-radius: 0;
}
.holds h1 {
  color: var(--malachite);
}
.look h1 {
  color: var(--ochre);
}
.wrong h1 {
  color: var(--carnelian);
}
video {
  width: 100%;
  max-height: 46vh;
  object-fit: contain;
  background: #e9e2d3;
  border-radius: 14px;
  touch-action: none;
}
.zoom {
  display: grid;
  grid-template-columns: auto 1fr 52px;
  gap: 14px;
  align-items: center;
  font-weight: 600;
}
.presses {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.presses :deep(.ant-btn) {
  justify-content: center;
  min-height: 46px;
}
.facts {
  margin: 0;
  padding: 0 0 0 18px;
  color: var(--soft);
  display: grid;
  gap: 4px;
}
.low {
  color: var(--carnelian);
  font-weight: 700;
}
.leave {
  justify-self: center;
  color: var(--soft);
}
</style>
