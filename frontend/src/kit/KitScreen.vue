<script setup lang="ts">
import { Button, Dropdown, Menu } from 'ant-design-vue'
import { computed, nextTick, ref, watch } from 'vue'
import type { Device } from '@/api/client'
import { useLive } from '@/shared/live'
import { dialogsGone, focusOn } from '@/shared/keepFocus'
import CameraDialog from './CameraDialog.vue'
import DeviceCard from './DeviceCard.vue'
import FileDialog from './FileDialog.vue'
import InviteDialog from './InviteDialog.vue'
import KitBar from './KitBar.vue'
import Notices from './Notices.vue'
import StreamDialog from './StreamDialog.vue'
import WindowDialog from './WindowDialog.vue'

type Adding = 'camera' | 'phone' | 'window' | 'file' | 'stream'
const live = useLive()
const adding = ref<Adding | null>(null)
const isEmpty = computed(() => live.kit?.devices.length === 0)
let mine = false // a dialog of this tab was open: what comes next is its
watch(adding, (what, before) => (mine = mine || (before !== null && what === null) || what !== null))
const about = ref<Device | null>(null) // the device that is invited again or gets more pages
const rigs = computed(() => live.kit?.rigs ?? [])
const taken = computed(() =>
  (live.kit?.devices ?? []).filter((one) => one.kind === 'camera').map((one) => one.source),
)

/** What was just added has the focus, once its dialog is gone. */
watch(
  () => live.kit?.devices.map((device) => device.id).join(),
  async (now, before) => {
    const added = now?.split(',').find((id) => id && before !== undefined && !before.split(',').includes(id))
    if (!added || !mine) return
    mine = false
    await nextTick()
    await dialogsGone()
    focusOn(`[data-device="${added}"]`)
  },
)
function add(what: Adding, device: Device | null = null) {
  about.value = device
  adding.value = what
}
const shows = (what: Adding) =>
  computed({ get: () => adding.value === what, set: (is) => (adding.value = is ? what : null) })
const camera = shows('camera')
const phone = shows('phone')
const window_ = shows('window')
const file = shows('file')
const stream = shows('stream')
const OTHERS = [
  { key: 'window', label: 'A window or a browser tab' },
  { key: 'file', label: 'Pages, slides or a clip' },
  { key: 'stream', label: 'A network stream' },
]
</script>

<template>
  <main class="screen">
    <div class="head">
      <div>
        <h1>{{ live.kit?.kit?.name ?? 'Kit' }}</h1>
        <p class="soft">
          <template v-if="live.kit?.kit">{{ live.kit.kit.room }} · </template>is everything working? Are these
          the right devices?
        </p>
      </div>
      <div v-roving class="presses" role="toolbar" aria-label="Add to the kit">
        <Dropdown :trigger="['click']">
          <Button size="large">Add something else</Button>
          <template #overlay>
            <Menu :items="OTHERS" @click="({ key }) => add(key as Adding)" />
          </template>
        </Dropdown>
        <Button size="large" @click="add('phone')">Invite a phone or tablet</Button>
        <Button :type="isEmpty ? 'default' : 'primary'" size="large" @click="add('camera')"
          >Add a camera on this computer</Button
        >
      </div>
    </div>
    <KitBar />
    <Notices @use="add('camera')" />
    <div v-if="live.kit" class="cards" :style="{ '--count': live.kit.devices.length }">
      <DeviceCard
        v-for="device in live.kit.devices"
        :key="device.id"
        :device="device"
        :feed="live.feeds.get(device.id)"
        :kit="live.kit"
        @invite="add('phone', device)"
        @pages="add('file', device)"
      />
    </div>
    <section v-if="isEmpty" class="card empty">
      <p>
        Nothing is here yet. A camera over the page and one at your face are enough; a phone can be either of
        them. What you add is remembered for this room.
      </p>
      <Button type="primary" size="large" @click="add('camera')">Choose a camera</Button>
    </section>
    <CameraDialog v-model:open="camera" :rigs="rigs" :taken="taken" />
    <InviteDialog v-model:open="phone" :rigs="rigs" :again="about" />
    <WindowDialog v-model:open="window_" />
    <FileDialog v-model:open="file" :behind="about" />
    <StreamDialog v-model:open="stream" :rigs="rigs" />
  </main>
</template>

<style scoped>
.screen {
  overflow: auto;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 10px;
}
.empty {
  padding: 22px;
  display: flex;
  gap: 18px;
  align-items: center;
  justify-content: space-between;
}
.presses {
  display: flex;
  gap: 10px;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(max(272px, min(420px, 100% / var(--count) - 16px)), 1fr));
  gap: 16px;
  align-items: start;
}
</style>
