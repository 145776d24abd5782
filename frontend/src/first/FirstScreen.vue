<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { TROUBLES } from '@/kit/capture'
import { useLive } from '@/shared/live'
import { useControls } from '@/shared/controls'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
import SurfaceView from '@/shared/SurfaceView.vue'
import FirstLook from '@/square-up/FirstLook.vue'
import WayChoices from '@/square-up/WayChoices.vue'
import { useChain } from '@/square-up/chain'
import { usePresses } from '@/square-up/presses'
import CameraOffer from './CameraOffer.vue'
import GoOut from './GoOut.vue'
import PhoneInstead from './PhoneInstead.vue'
import { useOffered } from './offered'
import { useSetUp } from './setUp'

type Role = 'page' | 'face'
const live = useLive()
const router = useRouter()
const offered = useOffered()
const { cameras, trouble, asking, proposal } = offered
const setUp = useSetUp()
const { busy, wayTold } = setUp
const step = ref<'choose' | 'see'>('choose')
const chosen = reactive(new Map<number, Role | null>()) // by the teacher
const phone = ref<string | null>(null)

const nameOf = (number: number) =>
  cameras.value[number]?.label.replace(/\s*\([0-9a-f]{4}:[0-9a-f]{4}\)$/i, '') || `Camera ${number + 1}`
function roleOf(number: number): Role | null {
  if (chosen.has(number)) return chosen.get(number) ?? null
  const role =
    proposal.value?.page?.camera === number ? 'page' : proposal.value?.face?.camera === number ? 'face' : null
  return role && ![...chosen.values()].includes(role) && !(role === 'page' && phone.value) ? role : null
}
const sureOf = (number: number) =>
  [proposal.value?.page, proposal.value?.face].find((one) => one?.camera === number)?.sure ?? null
const serving = (role: Role) => cameras.value.findIndex((_, number) => roleOf(number) === role)
const canGoOn = computed(() => phone.value !== null || serving('page') >= 0)
function choose(number: number, role: Role | null) {
  for (const [other, its] of chosen) if (its === role) chosen.set(other, null)
  chosen.set(number, role)
}

const page = computed(() => live.pageDevice)
const chain = useChain(computed(() => (step.value === 'see' ? page.value?.id : undefined)))
const controls = useControls(
  page,
  computed(() => (page.value ? live.kit?.guests[page.value.id] : undefined)),
)
const take = usePresses(chain, controls.focus)

const known = watch(
  () => live.kit,
  (kit) => {
    if (!kit) return
    void nextTick(() => known.stop())
    if (live.pageDevice) step.value = 'see'
    else void offered.open()
  },
  { immediate: true },
)
async function use() {
  const [pageAt, faceAt] = [serving('page'), serving('face')]
  const rig = proposal.value?.rig ?? 'arm-own-side'
  step.value = 'see'
  busy.value = 'Bringing the cameras in …'
  const pageCamera = cameras.value[pageAt]
  const faceCamera = cameras.value[faceAt]
  const pageDevice =
    pageCamera && !phone.value
      ? await setUp.add(pageCamera, 'page', rig, offered.handOver(pageCamera))
      : phone.value
        ? { id: phone.value }
        : undefined
  if (faceCamera) await setUp.add(faceCamera, 'face', rig, offered.handOver(faceCamera))
  offered.close()
  await setUp.lay(!!faceCamera)
  if (pageDevice) await setUp.squareUp(pageDevice)
  else busy.value = ''
}
function again() {
  step.value = 'choose'
  chosen.clear()
  phone.value = null
  void offered.open()
}
</script>

<template>
  <main class="screen first">
    <template v-if="step === 'choose'">
      <div class="head">
        <div>
          <h1>Which camera shows your page?</h1>
          <p class="soft" role="status">
            {{
              asking
                ? 'If asked, allow the camera. Nothing goes out while you choose.'
                : (proposal?.says ?? 'Looking at the pictures …')
            }}
          </p>
        </div>
        <Button type="primary" size="large" :disabled="!canGoOn" @click="use">{{
          chosen.size || phone ? 'Use these' : 'Yes, use these'
        }}</Button>
      </div>
      <div v-if="trouble" class="card trouble" role="alert">
        <p>{{ TROUBLES[trouble].sentence }}</p>
        <Button @click="offered.open">{{ TROUBLES[trouble].press }}</Button>
      </div>
      <ul class="cameras">
        <CameraOffer
          v-for="(camera, number) in cameras"
          :key="camera.source"
          :camera="camera"
          :name="nameOf(number)"
          :role="roleOf(number)"
          :proposed="!chosen.has(number)"
          :sure="sureOf(number)"
          @choose="(role) => choose(number, role)"
        />
        <li class="other">
          <PhoneInstead v-if="!phone" @come="(id) => (phone = id)" />
          <section v-else class="card come"><b>The phone is there</b> and shows the page.</section>
        </li>
      </ul>
      <p class="soft">
        No camera at hand?
        <Button type="link" @click="router.push('/kit')">Add a file, a window or a stream</Button>
      </p>
    </template>
    <template v-else>
      <section class="left">
        <CartoucheFrame :live="live.state?.going_out ?? false">
          <div class="picture"><SurfaceView surface="outgoing" :width="960" label="What goes out" /></div>
        </CartoucheFrame>
      </section>
      <section class="right">
        <h1>Your page</h1>
        <p v-if="busy" role="status">{{ busy }}</p>
        <FirstLook
          v-if="chain.view.value && !busy"
          :view="chain.view.value"
          :can-refocus="controls.canRefocus.value"
          @take="take"
        />
        <WayChoices
          v-if="page && !busy"
          :surface="`page:${page.id}`"
          :class="{ asked: wayTold === false }"
          @choose="chain.wayUp"
        />
        <GoOut v-if="!busy" />
        <p class="soft rest">
          <Button size="small" type="link" @click="again">Choose other cameras</Button>
          <Button size="small" type="link" @click="router.push('/square-up')">Correct it by hand</Button>
        </p>
      </section>
    </template>
  </main>
</template>

<style scoped>
.first {
  overflow: auto;
}
.first:has(.left) {
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(380px, 1fr);
  gap: 24px;
  align-items: start;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 20px;
  margin-bottom: 14px;
}
.head h1 {
  font-size: 21px;
}
.head p {
  margin: 2px 0 0;
  font-size: 16px;
}
.cameras {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(340px, 1fr));
  gap: 16px;
}
.other > section {
  height: 100%;
}
.come {
  padding: 16px;
}
.trouble {
  padding: 14px;
  display: flex;
  gap: 14px;
  align-items: center;
  margin-bottom: 14px;
}
.trouble p {
  margin: 0;
  flex: 1;
}
.picture {
  aspect-ratio: 16 / 9;
}
.left {
  padding-right: 14px;
}
.right {
  display: grid;
  gap: 12px;
}
.asked {
  outline: 2px dashed var(--lapis);
  outline-offset: 6px;
  border-radius: 10px;
}
.rest {
  display: flex;
  gap: 4px;
}
</style>
