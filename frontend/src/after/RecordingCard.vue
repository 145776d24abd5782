<script setup lang="ts">
import { Button, Input, InputNumber, Popconfirm } from 'ant-design-vue'
import { computed, nextTick, ref, watch } from 'vue'
import { api, answer } from '@/api/client'
import VerdictChip from '@/shared/VerdictChip.vue'
import type { After, Recording } from './after'
import { clock, lasts, megabytes } from './says'
import { at } from '@/shared/at'

/** A recording: played by its chapters, cut, named, saved, deleted. */
const props = defineProps<{
  recording: Recording
  ask: (work: () => Promise<After>) => Promise<unknown>
  goTo: { at: number } | null
}>()
const video = ref<HTMLVideoElement>()
const piece = ref(1)
const cutting = ref(false)
const from = ref(0)
const to = ref(0)
const of = ref(0) // its length when the part was chosen
const base = computed(() => at(`/api/after/recordings/${props.recording.id}`))
const current = computed(
  () => props.recording.pieces.find((one) => one.number === piece.value) ?? props.recording.pieces[0],
)
const version = computed(() => `${current.value?.bytes}`)
const whole = computed(() => props.recording.state !== 'open')
const path = computed(() => ({ recording_id: props.recording.id }))

async function play(atS: number) {
  const wanted = [...props.recording.pieces].reverse().find((one) => one.at_s <= atS + 0.01)
  if (!wanted) return
  piece.value = wanted.number
  await nextTick()
  const player = video.value
  if (!player) return
  player.currentTime = Math.max(0, atS - wanted.at_s)
  await player.play().catch(() => {})
}
/** The next piece follows by itself. */
function ended() {
  const next = props.recording.pieces.find((one) => one.number > piece.value)
  if (next) void play(next.at_s)
}
watch(
  () => props.goTo,
  (wanted) => wanted && void play(wanted.at),
)
const here = () => (current.value?.at_s ?? 0) + (video.value?.currentTime ?? 0)
function beginCut() {
  cutting.value = true
  from.value = 0
  of.value = props.recording.length_s
  to.value = Math.round(of.value * 10) / 10
}
async function cut() {
  cutting.value = false
  await props.ask(() =>
    answer(
      api.POST('/api/after/recordings/{recording_id}/cut', {
        params: { path: path.value },
        body: { from_s: from.value, to_s: to.value, of_s: of.value },
      }),
    ),
  )
}
const remove = () =>
  props.ask(() =>
    answer(api.DELETE('/api/after/recordings/{recording_id}', { params: { path: path.value } })),
  )
const rename = (event: Event) => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== props.recording.name)
    void props.ask(() =>
      answer(
        api.PUT('/api/after/recordings/{recording_id}', { params: { path: path.value }, body: { name } }),
      ),
    )
}
const copy = (number: number) =>
  props.ask(() =>
    answer(
      api.POST('/api/after/recordings/{recording_id}/{number}.webm', {
        params: { path: { ...path.value, number } },
      }),
    ),
  )
</script>

<template>
  <section class="card recording" :aria-label="`Recording: ${recording.name}`">
    <div class="head">
      <Input
        :key="recording.name"
        :default-value="recording.name"
        :maxlength="60"
        aria-label="Name of the recording"
        @blur="rename"
        @press-enter="rename"
      />
      <span class="soft num">{{ lasts(recording.length_s) }} · {{ megabytes(recording.bytes) }}</span>
      <VerdictChip v-if="recording.state === 'open'" kind="look">Being made whole</VerdictChip>
      <VerdictChip v-else-if="recording.state === 'mended'" kind="look">Cut off, and mended</VerdictChip>
      <VerdictChip v-else-if="recording.state === 'broken'" kind="wrong">Nothing in it plays</VerdictChip>
    </div>
    <div v-if="current && whole" class="plays">
      <video
        ref="video"
        :key="`${current.number} ${version}`"
        controls
        preload="metadata"
        :src="`${base}/${current.number}.mp4?of=${version}`"
        @ended="ended"
      />
      <div v-roving class="chapters" role="group" aria-label="Chapters">
        <button v-for="chapter in recording.chapters" :key="chapter.from_s" @click="play(chapter.from_s)">
          <span class="num">{{ clock(chapter.from_s) }}</span> {{ chapter.title }}
        </button>
      </div>
    </div>
    <div v-if="whole" v-roving class="row" role="group" aria-label="This recording">
      <template v-for="one in recording.pieces" :key="one.number">
        <Button :href="`${base}/${one.number}.mp4?save=true`" download
          >Save as MP4{{ recording.pieces.length > 1 ? `, piece ${one.number}` : '' }}</Button
        >
        <Button v-if="one.webm === null" @click="copy(one.number)">Make a WebM copy</Button>
        <Button v-else-if="one.webm < 1" disabled>WebM: {{ Math.round(one.webm * 100) }} %</Button>
        <Button v-else :href="`${base}/${one.number}.webm`" download>Save as WebM</Button>
      </template>
      <Button @click="beginCut">Cut beginning and end</Button>
      <Popconfirm
        title="Deleted for good, it cannot be brought back."
        ok-text="Delete for good"
        @confirm="remove"
        ><Button danger>Delete</Button></Popconfirm
      >
    </div>
    <div v-if="cutting" class="row" role="group" aria-label="What stays">
      <label
        >From
        <InputNumber
          v-model:value="from"
          :min="0"
          :max="recording.length_s"
          :step="1"
          aria-label="From, seconds"
        />
        s</label
      >
      <Button size="small" @click="from = Math.round(here() * 10) / 10">Here</Button>
      <label
        >to
        <InputNumber
          v-model:value="to"
          :min="0"
          :max="Math.ceil(recording.length_s)"
          :step="1"
          aria-label="To, seconds"
        />
        s</label
      >
      <Button size="small" @click="to = Math.round(here() * 10) / 10">Here</Button>
      <Button type="primary" @click="cut">Keep this part only</Button>
      <Button @click="cutting = false">Cancel</Button>
    </div>
    <p class="soft lies">It lies in {{ recording.folder }}.</p>
  </section>
</template>

<style scoped>
.recording {
  display: grid;
  gap: 10px;
  padding: 14px;
}
.head {
  display: flex;
  gap: 12px;
  align-items: center;
}
.head :deep(.ant-input) {
  max-width: 380px;
  font-weight: 600;
}
.plays {
  display: grid;
  grid-template-columns: minmax(0, 600px) minmax(200px, 1fr);
  gap: 14px;
}
video {
  width: 100%;
  aspect-ratio: 16/9;
  background: var(--ink);
  border-radius: 9px;
}
.chapters {
  max-height: 330px;
  overflow: auto;
}
.chapters button {
  appearance: none;
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink);
  padding: 6px 4px;
  display: block;
  text-align: left;
  cursor: pointer;
  width: 100%;
}
.chapters .num {
  color: var(--lapis);
  margin-right: 8px;
}
.row {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: center;
}
.lies {
  font-size: 13px;
  overflow-wrap: anywhere;
}
</style>
