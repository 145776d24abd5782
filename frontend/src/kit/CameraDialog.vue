<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import CameraPreview from './CameraPreview.vue'
import { useCameras } from './cameras'
import {
  TROUBLES,
  camerasHere,
  mostOf,
  openCamera,
  release,
  troubleOf,
  type CameraHere,
  type CameraTrouble,
} from './capture'
import { useHere } from './here'
import RigChoice from './RigChoice.vue'
import RoleChoice from './RoleChoice.vue'
import type { Serves } from './serves'

interface Candidate extends CameraHere {
  name: string
  stream: MediaStream | null
  trouble: CameraTrouble | null
}

const shown = defineModel<boolean>('open', { required: true })
const props = defineProps<{
  rigs: Schemas['RigView'][]
  taken: string[]
}>()
const sentences = useSentences()
const cameras = useCameras()
const here = useHere()
const candidates = ref<Candidate[]>([])
const trouble = ref<CameraTrouble | null>(null)
const asking = ref(false)
const rig = ref<Schemas['RigView']['id']>('arm-own-side')
const serves = ref<Serves>('page')
const chosen = computed(() => props.rigs.find((one) => one.id === rig.value))
watch(chosen, (one) => one && (serves.value = one.holds ?? 'nothing')) // a first guess; the teacher states it
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
    const opened = await Promise.all((await camerasHere()).map(preview))
    if (mine !== turn) return opened.forEach((candidate) => release(candidate.stream))
    candidates.value = opened
    if (!opened.length) trouble.value = 'none'
  } catch (error) {
    if (mine === turn) trouble.value = troubleOf(error)
  } finally {
    if (mine === turn) asking.value = false
  }
}

async function preview(camera: CameraHere, index: number): Promise<Candidate> {
  const name = index ? `Camera ${index + 1}` : 'My camera'
  const candidate: Candidate = { ...camera, name, stream: null, trouble: null }
  try {
    candidate.stream = await openCamera(camera.source)
  } catch (error) {
    candidate.trouble = troubleOf(error)
  }
  return candidate
}

async function use(candidate: Candidate) {
  const body = {
    kind: 'camera' as const,
    source: candidate.source,
    label: candidate.label,
    name: candidate.name,
    rig: rig.value,
    serves: serves.value === 'nothing' ? null : serves.value,
    microphone: candidate.microphone,
    whole_screen: false,
    ...(candidate.stream ? mostOf(candidate.stream) : {}),
  }
  const device = await sentences.attempt(() => answer(api.POST('/api/kit/devices', { body })))
  if (!device) return
  const stream = candidate.stream
  candidate.stream = null
  void cameras.bring(device, stream ?? undefined)
  void here.look()
  shown.value = false
}
</script>

<template>
  <Modal v-model:open="shown" title="Add a camera on this computer" :footer="null" width="760px">
    <p v-if="asking" class="soft">If asked, allow the camera. Nothing goes out while you choose.</p>
    <div v-else-if="trouble" class="trouble" role="alert">
      <p>{{ TROUBLES[trouble].sentence }}</p>
      <Button type="primary" @click="look">{{ TROUBLES[trouble].press }}</Button>
    </div>
    <template v-else>
      <div class="state">
        <RigChoice :rig="rig" :rigs="rigs" @change="(value) => (rig = value)" />
        <RoleChoice v-model="serves" />
      </div>
      <ul>
        <li v-for="candidate in candidates" :key="candidate.source" class="card">
          <CameraPreview v-if="candidate.stream" :stream="candidate.stream" :label="candidate.name" />
          <p v-else-if="candidate.trouble" class="soft pad">{{ TROUBLES[candidate.trouble].sentence }}</p>
          <div class="pad">
            <label
              >Your name for it <Input v-model:value="candidate.name" :maxlength="60" />
              <span class="soft small"
                >{{ candidate.label }}{{ candidate.microphone && ` · with ${candidate.microphone}` }}</span
              ></label
            >
            <Button
              type="primary"
              :disabled="!candidate.stream || taken.includes(candidate.source)"
              @click="use(candidate)"
            >
              {{ taken.includes(candidate.source) ? 'Already in the kit' : 'Use this one' }}
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
.state {
  display: grid;
  gap: 10px;
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
