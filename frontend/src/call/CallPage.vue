<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { useRoute } from 'vue-router'
import { type Arrived, type CodecName, TwoPeers } from './peers'
import { at } from '@/shared/at'
import { withoutRtc } from '@/shared/rtc'

const WAYS: Record<string, string> = {
  webcam: 'extension',
  second: 'second-camera',
  tab: 'tab',
  window: 'window',
}
const route = useRoute()
const cameras = ref<MediaDeviceInfo[]>([])
const microphones = ref<MediaDeviceInfo[]>([])
const camera = ref('')
const microphone = ref('')
const codec = ref<CodecName>(route.query.codec === 'H264' ? 'H264' : 'VP8')
const shown = ref<'pinned' | 'grid'>('pinned')
const sentence = ref<string | null>(null)
const joined = ref(false)
const arrived = ref<Arrived[]>([])
const self = ref<HTMLVideoElement>()
const eyes = ref<HTMLVideoElement>()
const shares = ref<HTMLVideoElement>()
const hears = ref(false)
const stage = shallowRef<MediaStream | null>(null)
const taken = ref<string | null>(null) // the way that is being tried
let peers: TwoPeers | null = null
let own: MediaStream | null = null
let shared: MediaStream | null = null
let steady = 0

const tiles = computed(() => (shown.value === 'grid' ? 9 : 1))

async function list() {
  const all = await navigator.mediaDevices.enumerateDevices()
  cameras.value = all.filter((one) => one.kind === 'videoinput')
  microphones.value = all.filter((one) => one.kind === 'audioinput')
}
useEventListener(navigator.mediaDevices, 'devicechange', list)

async function join() {
  sentence.value = withoutRtc() // before a camera or a screen is opened in vain
  if (sentence.value) return
  try {
    own?.getTracks().forEach((track) => track.stop())
    own = await navigator.mediaDevices.getUserMedia({
      video: camera.value ? { deviceId: { exact: camera.value } } : true,
      audio: microphone.value ? { deviceId: { exact: microphone.value } } : false,
    })
    await list()
    const [track] = own.getVideoTracks()
    camera.value = track?.getSettings().deviceId ?? camera.value
    self.value!.srcObject = own
    peers ??= newPeers()
    await peers.send('camera', track ?? null)
    await peers.send('microphone', own.getAudioTracks()[0] ?? null)
    joined.value = true
    taken.value = track?.label === 'Cartouche' ? 'webcam' : null
    steady = 0
  } catch (error) {
    sentence.value = says(error as DOMException)
  }
}

function newPeers(): TwoPeers {
  const made = new TwoPeers(codec.value, Number(route.query.kbit) || null, Number(route.query.scale) || 1)
  const pictures: MediaStream[] = []
  made.onTrack = (kind, stream) => {
    if (kind === 'audio') return hear(stream)
    if (!pictures.length) eyes.value!.srcObject = stream
    else {
      stage.value = stream
      shares.value!.srcObject = stream
    }
    pictures.push(stream)
  }
  return made
}

function hear(stream: MediaStream) {
  const audio = new Audio()
  audio.muted = true // a learner's loudspeaker in this room would be heard twice
  audio.srcObject = stream
}

async function share() {
  sentence.value = withoutRtc()
  if (sentence.value) return
  try {
    shared = await navigator.mediaDevices.getDisplayMedia({ video: { frameRate: 30 }, audio: true })
    const track = shared.getVideoTracks()[0]!
    track.contentHint = 'detail'
    peers ??= newPeers()
    await peers.send('share', track)
    const surface = track.getSettings().displaySurface
    taken.value = surface === 'browser' ? 'tab' : 'window'
    steady = 0
    track.onended = unshare
  } catch (error) {
    sentence.value = says(error as DOMException)
  }
}

async function second() {
  sentence.value = withoutRtc()
  if (sentence.value) return
  const other = cameras.value.find((one) => one.label === 'Cartouche')
  if (!other) {
    sentence.value = 'There is no camera named Cartouche here. Offer it on this site by the extension’s icon.'
    return
  }
  shared = await navigator.mediaDevices.getUserMedia({ video: { deviceId: { exact: other.deviceId } } })
  peers ??= newPeers()
  await peers.send('share', shared.getVideoTracks()[0]!)
  taken.value = 'second'
  steady = 0
}

function unshare() {
  shared?.getTracks().forEach((track) => track.stop())
  shared = null
  stage.value = null
  void peers?.send('share', null)
}

function leave() {
  peers?.close()
  peers = null
  own?.getTracks().forEach((track) => track.stop())
  unshare()
  for (const video of [self.value, eyes.value, shares.value]) video!.srcObject = null // an ended one stays as a black picture
  joined.value = false
  arrived.value = []
  taken.value = null
}

function says(error: DOMException): string {
  if (error.name === 'NotAllowedError') return 'The camera was not allowed. Press Join and allow it.'
  if (error.name === 'NotFoundError')
    return 'No camera is here. Offer Cartouche on this site by the extension’s icon.'
  return 'The camera could not be had. Choose another and press Join.'
}

/** While figures are steady they are told to Cartouche, which then shows them as measured. */
const STEADY_S = 5
useIntervalFn(async () => {
  const asked = peers
  if (!asked) return
  const figures = await asked.arrived()
  if (peers !== asked) return // left meanwhile
  arrived.value = figures
  const way = taken.value && WAYS[taken.value]
  const found = arrived.value[taken.value === 'webcam' ? 0 : arrived.value.length - 1]
  steady = found && found.fps > 0 ? steady + 1 : 0
  if (!way || !found || !steady || steady % STEADY_S) return
  const { width, height, fps, codec: name, sound, delayMs } = found
  hears.value = sound
  await fetch(at(`/api/ways/tried/${way}`), {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ width, height, fps, codec: name, sound, delay_ms: delayMs }),
  })
}, 1000)

const connecting = computed(() => joined.value && !arrived.value.length)
onMounted(async () => {
  document.title = 'Practice call'
  await list()
})
onBeforeUnmount(leave)
</script>

<template>
  <main class="call">
    <header>
      <h1>Practice call on this computer</h1>
      <select v-model="camera" aria-label="Camera">
        <option value="">Any camera</option>
        <option v-for="one in cameras" :key="one.deviceId" :value="one.deviceId">
          {{ one.label || 'A camera' }}
        </option>
      </select>
      <select v-model="microphone" aria-label="Microphone">
        <option value="">No microphone</option>
        <option v-for="one in microphones" :key="one.deviceId" :value="one.deviceId">
          {{ one.label || 'A microphone' }}
        </option>
      </select>
      <Button type="primary" @click="join">{{ joined ? 'Take this camera' : 'Join' }}</Button>
      <Button @click="stage ? unshare() : share()">{{
        stage ? 'Stop sharing' : 'Share a tab or window'
      }}</Button>
      <Button @click="second">Second camera</Button>
      <Button v-if="joined" @click="leave">Leave</Button>
    </header>
    <p v-if="sentence" class="refused" role="alert">{{ sentence }}</p>
    <section class="ends">
      <figure aria-label="Your end">
        <figcaption>Your end: the call shows you mirrored</figcaption>
        <video ref="self" class="self" autoplay playsinline muted aria-label="Your own view" />
      </figure>
      <figure class="learner" aria-label="A learner’s end">
        <figcaption>
          A learner’s end
          <Segmented
            v-model:value="shown"
            size="small"
            :options="['pinned', 'grid']"
            aria-label="How a learner looks"
          />
        </figcaption>
        <div class="tiles" :class="[shown, { staged: stage }]">
          <video
            v-show="stage"
            ref="shares"
            class="stage"
            autoplay
            playsinline
            muted
            aria-label="What is shared"
          />
          <video ref="eyes" class="teacher" autoplay playsinline muted aria-label="The teacher" />
          <span v-for="one in tiles - 1" :key="one" class="other" aria-hidden="true">{{
            `Learner ${one}`
          }}</span>
        </div>
      </figure>
    </section>
    <footer role="status">
      <span v-if="connecting">Connecting… (a computer in no network at all cannot hold this call)</span>
      <span v-for="(one, index) in arrived" :key="index" class="num"
        >{{ one.width }}×{{ one.height }} · {{ one.fps.toFixed(0) }} pictures a second · {{ one.codec
        }}<template v-if="one.delayMs !== null">
          · {{ one.delayMs.toFixed(0) }} ms in the call</template
        ></span
      >
      <span v-if="joined && microphone" class="soft">{{
        hears ? 'The learner hears you' : 'The learner hears nothing'
      }}</span>
    </footer>
  </main>
</template>

<style scoped>
.call {
  flex: 1;
  display: grid;
  grid-template-rows: auto auto 1fr auto;
  gap: 10px;
  padding: 14px 20px;
  min-height: 0;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
h1 {
  margin-right: auto;
}
select {
  font: inherit;
  min-height: 36px;
  max-width: 190px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--sheet);
}
.ends {
  display: grid;
  grid-template-columns: minmax(200px, 1fr) 3fr;
  gap: 16px;
  min-height: 0;
  grid-row: 3;
}
figure {
  margin: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
figcaption {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 28px;
}
video {
  background: #2a2f3a;
  border-radius: 10px;
  width: 100%;
  aspect-ratio: 16 / 9;
  object-fit: contain;
}
.self {
  transform: scaleX(-1);
}
.tiles {
  flex: 1;
  min-height: 0;
  display: grid;
  gap: 8px;
  align-content: start;
  grid-template-columns: 1fr;
}
.tiles.grid {
  grid-template-columns: repeat(3, 1fr);
}
.tiles.staged {
  grid-template-columns: 4fr 1fr;
}
.tiles.staged .other {
  display: none;
}
.other {
  display: grid;
  place-items: center;
  aspect-ratio: 16 / 9;
  border-radius: 10px;
  background: #d8d2c4;
  color: var(--soft);
}
.refused {
  color: var(--carnelian);
  font-weight: 600;
}
footer {
  display: flex;
  gap: 20px;
  min-height: 24px;
  grid-row: 4;
}
</style>
