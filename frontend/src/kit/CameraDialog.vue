<script setup lang="ts">
import { Button, Input, Modal, Segmented } from 'ant-design-vue'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import { useSentences } from '@/shared/sentences'
import { SERVES, type Serves } from './serves'
import CameraPreview from './CameraPreview.vue'
import { TROUBLES, openCamera, release, troubleOf, useCameras, type CameraTrouble } from './cameras'

interface Candidate {
  source: string
  label: string
  name: string
  stream: MediaStream | null
  trouble: CameraTrouble | null
}

const shown = defineModel<boolean>('open', { required: true })
const props = defineProps<{
  rigs: Schemas['RigView'][]
  taken: string[]
  serving: Partial<Record<Serves, string>>
}>()
const sentences = useSentences()
const cameras = useCameras()
const candidates = ref<Candidate[]>([])
const trouble = ref<CameraTrouble | null>(null)
const asking = ref(false)
const rig = ref<Schemas['RigView']['id']>('arm-own-side')
const serves = ref<Serves>('page')
const chosen = computed(() => props.rigs.find((one) => one.id === rig.value))
watch(chosen, (one) => one && (serves.value = one.holds)) // a first guess; the teacher states it
const replaced = computed(() => props.serving[serves.value])
let turn = 0

onScopeDispose(close)
watch(shown, (is) => (is ? look() : close()))

function close() {
  turn++
  candidates.value.forEach((candidate) => release(candidate.stream))
  candidates.value = []
}

async function look() {
  close()
  const mine = turn
  asking.value = true
  trouble.value = null
  try {
    release(await openCamera())
    const found = (await navigator.mediaDevices.enumerateDevices()).filter(
      (device) => device.kind === 'videoinput',
    )
    const opened = await Promise.all(found.map(preview))
    if (mine !== turn) return opened.forEach((candidate) => release(candidate.stream))
    candidates.value = opened
    if (!opened.length) trouble.value = 'none'
  } catch (error) {
    if (mine === turn) trouble.value = troubleOf(error)
  } finally {
    if (mine === turn) asking.value = false
  }
}

async function preview(device: MediaDeviceInfo, index: number): Promise<Candidate> {
  const name = index ? `Camera ${index + 1}` : 'My camera'
  const candidate: Candidate = {
    source: device.deviceId,
    label: device.label,
    name,
    stream: null,
    trouble: null,
  }
  try {
    candidate.stream = await openCamera(device.deviceId)
  } catch (error) {
    candidate.trouble = troubleOf(error)
  }
  return candidate
}

async function use(candidate: Candidate) {
  const body = {
    source: candidate.source,
    label: candidate.label,
    name: candidate.name,
    rig: rig.value,
    serves: serves.value === 'nothing' ? null : serves.value,
  }
  const device = await sentences.attempt(() => answer(api.POST('/api/kit/devices', { body })))
  if (!device) return
  const stream = candidate.stream
  candidate.stream = null
  void cameras.bring(device.id, device.source, stream ?? undefined)
  shown.value = false
}
</script>

<template>
  <Modal v-model:open="shown" title="Use a camera of this computer" :footer="null" width="760px">
    <p v-if="asking" class="soft">
      The browser asks whether Cartouche may use the camera: allow it. The pictures stay on this computer.
    </p>
    <div v-else-if="trouble" class="trouble" role="alert">
      <p>{{ TROUBLES[trouble].sentence }}</p>
      <Button type="primary" @click="look">{{ TROUBLES[trouble].press }}</Button>
    </div>
    <template v-else>
      <div class="rig">
        <span aria-hidden="true">How it is held</span>
        <ChoiceList
          label="How it is held"
          :value="rig"
          :options="rigs.map((one) => ({ value: one.id, label: one.name }))"
          @change="(value) => (rig = value as Schemas['RigView']['id'])"
        />
        <span class="soft">{{ chosen?.price }}</span>
      </div>
      <div class="serves">
        <span>It serves as</span
        ><Segmented v-model:value="serves" :options="SERVES" aria-label="It serves as" />
        <span v-if="replaced" class="soft">instead of {{ replaced }}</span>
      </div>
      <ul>
        <li v-for="candidate in candidates" :key="candidate.source" class="card">
          <CameraPreview v-if="candidate.stream" :stream="candidate.stream" :label="candidate.name" />
          <p v-else-if="candidate.trouble" class="soft pad">{{ TROUBLES[candidate.trouble].sentence }}</p>
          <div class="pad">
            <label
              >Your name for it <Input v-model:value="candidate.name" :maxlength="60" />
              <span class="soft small">{{ candidate.label }}</span></label
            >
            <Button
              type="primary"
              :disabled="!candidate.stream || taken.includes(candidate.source)"
              @click="use(candidate)"
            >
              {{ taken.includes(candidate.source) ? 'In the kit already' : 'Use this one' }}
            </Button>
          </div>
        </li>
      </ul>
    </template>
  </Modal>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 14px 0 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 14px;
}
li {
  overflow: hidden;
}
.pad {
  padding: 12px;
  display: grid;
  gap: 10px;
}
.rig {
  display: grid;
  gap: 4px;
}
.serves {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-top: 10px;
}
.small {
  font-size: 13px;
}
.trouble {
  display: grid;
  gap: 12px;
  justify-items: start;
}
</style>
