<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useKeys } from '@/shared/keys'
import { useLive } from '@/shared/live'
import SurfaceView from '@/shared/SurfaceView.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import CornerEditor from './CornerEditor.vue'
import CorrectionChain from './CorrectionChain.vue'
import PagePicture from './PagePicture.vue'
import ReadingCards from './ReadingCards.vue'
import { useChain } from './chain'

const live = useLive()
const route = useRoute()
const router = useRouter()
const devices = computed(() =>
  (live.kit?.devices ?? []).filter((device) => device.rig !== 'at-face' || device.serves === 'page'),
)
const deviceId = computed(
  () => (route.params.deviceId as string) || live.pageDevice?.id || devices.value[0]?.id,
)
const device = computed(() => live.kit?.devices.find((one) => one.id === deviceId.value))
const { view, chain, part, keystone, find, undo, redo, paper } = useChain(deviceId)

const BESIDES_PX = 110 // heading and verdict
const room = ref<HTMLElement>()
const { width: roomWide, height: roomHigh } = useElementSize(room)
const comparing = ref(false)
const rawAspect = computed(() => (view.value?.feed_width ?? 16) / (view.value?.feed_height ?? 9))
const stages = computed(() => view.value?.learners.stages.filter((stage) => stage.count > 0) ?? [])

useKeys({ q: find, z: undo, y: redo, c: () => (comparing.value = true) })
useEventListener(document, 'keyup', (event) => {
  if (event.key.toLowerCase() === 'c') comparing.value = false
})
useEventListener(window, 'blur', () => (comparing.value = false))
</script>

<template>
  <main class="screen square-up">
    <section class="camera">
      <div class="head">
        <h1>As the camera sees it</h1>
        <Segmented
          v-if="devices.length > 1"
          size="small"
          :value="deviceId"
          :options="devices.map((one) => ({ value: one.id, label: one.name }))"
          aria-label="Which camera"
          @change="(id) => router.replace(`/square-up/${id}`)"
        />
        <span v-else class="soft">{{ device?.name }}</span>
      </div>
      <div v-if="device" class="raw" :style="{ aspectRatio: rawAspect }">
        <SurfaceView
          :surface="`raw:${device.id}`"
          :width="760"
          :frames-s="20"
          label="The raw picture with four corners"
        />
        <CornerEditor
          v-if="chain && view?.feed_width"
          :corners="chain.square.corners"
          :on="chain.square.on"
          :aspect="rawAspect"
          @move="(corners, settled) => part('square', { corners, on: true }, settled)"
        />
      </div>
      <div class="presses">
        <Button type="primary" size="large" @click="find">Square it up <kbd>Q</kbd></Button>
        <Button size="large" :disabled="!view?.can_undo" @click="undo">Undo <kbd>Z</kbd></Button>
        <Button size="large" :disabled="!view?.can_redo" @click="redo">Redo <kbd>Y</kbd></Button>
      </div>
      <ReadingCards v-if="view" :view="view" />
    </section>
    <section class="chain">
      <h1>What is put right</h1>
      <CorrectionChain v-if="view" :view="view" @part="part" @keystone="keystone" @paper="paper" />
    </section>
    <section ref="room" class="result">
      <div class="head">
        <h1>As the page is</h1>
        <span class="soft">hold <kbd>C</kbd> to compare</span>
      </div>
      <div>
        <PagePicture
          v-if="view"
          :view="view"
          :comparing="comparing"
          :room-wide="roomWide"
          :room-high="roomHigh - BESIDES_PX"
          :live="live.state?.going_out ?? false"
          @frame="(values, settled) => part('frame', values, settled)"
        />
      </div>
      <div v-if="view" class="verdict">
        <VerdictChip :kind="view.learners.reads_true ? 'holds' : 'wrong'">{{
          view.learners.reads_true ? 'Reads true for learners' : 'Reads reversed for learners'
        }}</VerdictChip>
        <p class="soft">
          {{ view.learners.count === 1 ? 'One reflection' : `${view.learners.count || 'No'} reflections` }}
          between paper and learners{{
            stages.length ? `: ${stages.map((stage) => stage.words).join(', ')}` : ''
          }}.
        </p>
      </div>
    </section>
  </main>
</template>

<style scoped>
.square-up {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) 276px minmax(0, 1.02fr);
  gap: 20px;
}
section {
  min-height: 0;
  min-width: 0;
}
h1 {
  font-size: 15px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  height: 30px;
  margin-bottom: 8px;
  gap: 8px;
}
.chain h1 {
  height: 30px;
  margin-bottom: 8px;
  display: flex;
  align-items: center;
}
.raw {
  position: relative;
  border: 1px solid var(--line);
  border-radius: 14px;
}
.raw :deep(.surface) {
  border-radius: 13px;
}
.presses {
  display: flex;
  gap: 8px;
  margin: 12px 0;
  flex-wrap: wrap;
}
.camera,
.chain {
  overflow-y: auto;
  overflow-x: hidden;
}
.result {
  display: flex;
  flex-direction: column;
}
.verdict {
  margin-top: 10px;
  display: grid;
  gap: 4px;
  font-size: 13.5px;
}
@media (max-width: 1180px) {
  .presses .ant-btn {
    padding-inline: 9px;
    font-size: 15px;
  }
  .square-up {
    grid-template-columns: minmax(0, 1.15fr) 256px minmax(0, 1fr);
    gap: 14px;
  }
}
</style>
