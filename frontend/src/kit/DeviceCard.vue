<script setup lang="ts">
import { Button, Input, Popconfirm, Segmented } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, answer, type Device, type FeedView, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import ChoiceList from '@/shared/ChoiceList.vue'
import SurfaceView from '@/shared/SurfaceView.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import { TROUBLES, useCameras } from './cameras'
import { FAULTS, type Fault } from './faults'
import { SERVES } from './serves'
import { deviceSays } from './states'

const props = defineProps<{
  device: Device
  feed?: FeedView
  rigs: Schemas['RigView'][]
  fault: Fault | null
}>()
const cameras = useCameras()
const sentences = useSentences()
const name = ref(props.device.name)
watch(
  () => props.device.name,
  (next) => (name.value = next),
)

const camera = computed(() => cameras.status.get(props.device.id))
const says = computed(() => deviceSays(props.device, props.feed, camera.value))
const usable = computed(() => props.feed?.state === 'live' || props.feed?.state === 'blurred')
const rig = computed(() => props.rigs.find((one) => one.id === props.device.rig))

async function change(body: Schemas['DeviceChange']) {
  const path = { device_id: props.device.id }
  const done = await sentences.attempt(() =>
    answer(api.PATCH('/api/kit/devices/{device_id}', { params: { path }, body })),
  )
  if (!done) name.value = props.device.name
}
function rename() {
  const wanted = name.value.trim()
  if (wanted && wanted !== props.device.name) void change({ name: wanted })
  else name.value = props.device.name
}
async function provoke(fault: Fault | null) {
  const path = { device_id: props.device.id }
  await sentences.attempt(() =>
    answer(api.PUT('/api/kit/devices/{device_id}/fault', { params: { path }, body: { fault } })),
  )
}
function bringBack() {
  if (props.device.kind === 'camera') void cameras.bring(props.device.id, props.device.source)
  else void provoke(null)
}
async function remove() {
  const path = { device_id: props.device.id }
  await sentences.attempt(() => answer(api.DELETE('/api/kit/devices/{device_id}', { params: { path } })))
}
</script>

<template>
  <article class="card" :class="device.serves ?? 'neither'" :aria-label="device.name">
    <div class="picture">
      <SurfaceView
        :surface="`raw:${device.id}`"
        :width="400"
        :frames-s="12"
        :label="`Live picture of ${device.name}`"
      />
      <span v-if="device.serves" class="role">{{ device.serves === 'page' ? 'Page' : 'Face' }}</span>
    </div>
    <div class="body">
      <div class="top">
        <Input
          v-model:value="name"
          class="name"
          :maxlength="60"
          aria-label="Name"
          @blur="rename"
          @press-enter="rename"
        />
        <VerdictChip :kind="says.kind">{{ says.word }}</VerdictChip>
      </div>
      <p v-if="says.sentence" class="sentence" role="status">
        {{ says.sentence }}
        <Button
          v-if="camera?.trouble"
          size="small"
          type="primary"
          @click="cameras.bring(device.id, device.source)"
          >{{ TROUBLES[camera.trouble].press }}</Button
        >
        <Button v-else-if="says.press" size="small" type="primary" @click="bringBack">Bring it back</Button>
      </p>
      <p class="soft facts">
        <span>{{ device.label || 'Camera of this computer' }}</span>
        <span v-if="feed?.width" class="num">{{ feed.width }}×{{ feed.height }}</span>
        <span v-if="usable" class="num">{{ Math.round(feed?.frames_s ?? 0) }} frames/s</span>
        <span v-if="usable && feed?.delay_ms" class="num">{{ Math.round(feed.delay_ms) }} ms</span>
      </p>
      <div class="serves">
        <span>Serves as</span
        ><Segmented
          :value="device.serves ?? 'nothing'"
          :options="SERVES"
          @change="(role) => change({ serves: role as 'page' })"
        />
      </div>
      <ChoiceList
        label="How it is held"
        :value="device.rig"
        :options="rigs.map((one) => ({ value: one.id, label: one.name }))"
        @change="(value) => change({ rig: value as Schemas['RigView']['id'] })"
      />
      <p class="soft price">{{ rig?.price }}</p>
      <div class="presses">
        <RouterLink v-if="device.rig !== 'at-face'" :to="`/square-up/${device.id}`" class="link"
          >Square up</RouterLink
        >
        <span v-if="device.kind === 'bench'" class="bench">
          <ChoiceList
            small
            label="Provoke a fault on this simulated device"
            :value="fault ?? 'none'"
            :options="FAULTS"
            @change="(value) => provoke(value === 'none' ? null : (value as Fault))"
          />
        </span>
        <Popconfirm
          v-if="device.kind === 'camera'"
          title="Take this camera out of the kit? Its corrections go too."
          ok-text="Take it out"
          cancel-text="Keep it"
          @confirm="remove"
          ><Button size="small">Take out</Button></Popconfirm
        >
      </div>
    </div>
  </article>
</template>

<style scoped>
article {
  max-width: 560px;
  overflow: hidden;
  display: flex;
  flex-direction: column;
}
.page,
.face {
  border-color: var(--lapis);
}
.picture {
  position: relative;
  aspect-ratio: 16/9;
}
.role {
  position: absolute;
  top: 10px;
  left: 10px;
  padding: 3px 12px;
  border-radius: 8px;
  background: var(--lapis);
  color: #fff;
  font-weight: 650;
}
.body {
  padding: 12px 14px 14px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 9px;
}
.top,
.serves,
.presses {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
}
.name {
  font-weight: 700;
  font-size: 16px;
  padding-inline: 8px;
  margin-left: -8px;
}
.name:not(:focus, :hover) {
  border-color: transparent;
  background: none;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  font-size: 13.5px;
}
.price,
.sentence {
  font-size: 13.5px;
}
.sentence {
  display: grid;
  justify-items: start;
  gap: 6px;
}
.bench {
  width: 168px;
  margin-left: auto;
}
.top :deep(.chip) {
  flex: none;
  white-space: nowrap;
}
.link {
  color: var(--lapis);
  font-weight: 600;
  padding: 6px 0;
}
</style>
