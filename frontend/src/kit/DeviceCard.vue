<script setup lang="ts">
import { Button, Input, Popconfirm, Segmented } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, answer, type Device, type FeedView, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import ChoiceList from '@/shared/ChoiceList.vue'
import SurfaceView from '@/shared/SurfaceView.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useCameras } from './cameras'
import { useMends } from './mends'
import { TROUBLES } from './capture'
import DeviceFacts from './DeviceFacts.vue'
import DeviceSettings from './DeviceSettings.vue'
import { FAULTS, type Fault } from './faults'
import FilePanel from './FilePanel.vue'
import RigChoice from './RigChoice.vue'
import { SERVES } from './serves'
import { deviceSays } from './states'

const props = defineProps<{ device: Device; feed?: FeedView; kit: Schemas['KitView'] }>()
const emit = defineEmits<{ invite: []; pages: [] }>()
const cameras = useCameras()
const mends = useMends()
const sentences = useSentences()
const name = ref(props.device.name)
watch(
  () => props.device.name,
  (next) => (name.value = next),
)

const path = computed(() => ({ device_id: props.device.id }))
const camera = computed(() => cameras.status.get(props.device.id))
const guest = computed(() => props.kit.guests[props.device.id])
const fault = computed(() => props.kit.faults[props.device.id] ?? null)
const files = computed(() => props.kit.files[props.device.id])
const says = computed(() => deviceSays(props.device, props.feed, camera.value, guest.value))
const isFile = computed(() => files.value !== undefined || props.device.kind === 'window')
const started = computed(() => props.feed?.started ?? null)
const mustInvite = computed(() => props.device.kind === 'guest' && (!guest.value || guest.value.left))
const mustWait = computed(() => guest.value !== undefined && !guest.value.awaited && !guest.value.left)

async function change(body: Schemas['DeviceChange']) {
  const done = await sentences.attempt(() =>
    answer(api.PATCH('/api/kit/devices/{device_id}', { params: { path: path.value }, body })),
  )
  if (!done) name.value = props.device.name
}
function rename() {
  const wanted = name.value.trim()
  if (wanted && wanted !== props.device.name) void change({ name: wanted })
  else name.value = props.device.name
}
async function provoke(next: Fault | null) {
  await sentences.attempt(() =>
    answer(
      api.PUT('/api/kit/devices/{device_id}/fault', { params: { path: path.value }, body: { fault: next } }),
    ),
  )
}
async function wait() {
  await sentences.attempt(() =>
    answer(api.POST('/api/guests/{device_id}/wait', { params: { path: path.value } })),
  )
}
async function remove() {
  await sentences.attempt(() =>
    answer(api.DELETE('/api/kit/devices/{device_id}', { params: { path: path.value } })),
  )
}
</script>

<template>
  <article
    class="card"
    tabindex="-1"
    :data-device="device.id"
    :class="device.serves ?? 'neither'"
    :aria-label="device.name"
  >
    <div class="picture">
      <SurfaceView
        :surface="`raw:${device.id}`"
        :width="400"
        :fps="12"
        :label="`Live picture of ${device.name}`"
        :waiting="says.kind === 'wrong' ? 'No picture' : 'One moment'"
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
      <progress v-if="started !== null" :value="started" :aria-label="`${device.name} starts`" />
      <p v-if="says.sentence" class="sentence" role="status">
        {{ says.sentence }}
        <Button v-if="camera?.trouble" size="small" type="primary" @click="cameras.bring(device)">{{
          TROUBLES[camera.trouble].press
        }}</Button>
        <Button v-else-if="mustInvite" size="small" type="primary" @click="emit('invite')">{{
          guest?.left ? 'Invite again' : 'Invite it'
        }}</Button>
        <Button v-else-if="mustWait" size="small" type="primary" @click="wait">Wait for it again</Button>
        <Button
          v-else-if="feed?.press === 'other lens'"
          size="small"
          type="primary"
          @click="mends.otherLens(device)"
          >Use the rear lens</Button
        >
        <Button v-else-if="says.press" size="small" type="primary" @click="mends.bringBack(device)"
          >Bring it back</Button
        >
      </p>
      <DeviceFacts :device="device" :feed="feed" :guest="guest" />
      <FilePanel v-if="files" :device="device" :feed="feed" :files="files" />
      <div class="serves">
        <span>Serves as</span
        ><Segmented
          v-radios
          :value="device.serves ?? 'nothing'"
          :options="SERVES"
          @change="(role) => change({ serves: role as 'page' })"
        />
      </div>
      <RigChoice
        v-if="!isFile"
        :rig="device.rig as Schemas['RigView']['id']"
        :rigs="kit.rigs"
        @change="(rig) => change({ rig })"
      />
      <DeviceSettings :device="device" :sizes="kit.sizes[device.id]" :guest="guest" />
      <div v-roving class="presses" role="toolbar" :aria-label="`${device.name}: more`">
        <RouterLink v-if="device.rig !== 'at-face' && !isFile" :to="`/square-up/${device.id}`" class="link"
          >Square up</RouterLink
        >
        <Button v-if="device.kind === 'pages'" size="small" @click="emit('pages')">Add pages</Button>
        <Button v-if="guest && !guest.here" size="small" @click="emit('invite')">New code</Button>
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
          v-if="device.kind !== 'bench'"
          title="Remove it from the kit? Its corrections go too."
          ok-text="Remove it"
          cancel-text="Keep it"
          @confirm="remove"
          ><Button size="small">Remove</Button></Popconfirm
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
.picture :deep(.surface) {
  position: absolute;
  inset: 0;
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
.sentence {
  font-size: 13.5px;
  display: grid;
  justify-items: start;
  gap: 6px;
}
progress {
  width: 100%;
  height: 8px;
  appearance: none;
  border: none;
  border-radius: 4px;
  background: #e9e2d3;
}
progress::-webkit-progress-bar {
  background: #e9e2d3;
  border-radius: 4px;
}
progress::-webkit-progress-value,
progress::-moz-progress-bar {
  background: var(--ochre);
  border-radius: 4px;
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
