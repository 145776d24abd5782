<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { ref, shallowRef } from 'vue'
import { useEventListener } from '@vueuse/core'
import { api, answer, type Schemas } from '@/api/client'
import { useCameras } from '@/kit/cameras'
import { useOutgoing } from '@/shared/outgoing'
import { useSentences } from '@/shared/sentences'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useMicrophones } from '@/sound/microphones'
import { useTools } from '@/teach/tools'

/** The end of the lesson: one press, and everything is off, or what is not is named. */
const outgoing = useOutgoing()
const cameras = useCameras()
const microphones = useMicrophones()
const sentences = useSentences()
const tools = useTools()
const open = ref(false)
const busy = ref(false)
const closed = shallowRef<Schemas['ClosedView'] | null>(null)

async function close() {
  open.value = true
  busy.value = true
  closed.value = null
  cameras.letAllGo()
  outgoing.close()
  await microphones.open(null)
  closed.value = (await sentences.attempt(() => answer(api.POST('/api/after/close-down')))) ?? null
  busy.value = false
}
// a closed tab takes its cameras with it; what is being recorded goes on in Cartouche itself
useEventListener(window, 'beforeunload', (event) => {
  if (tools.view?.recording.state === 'recording') event.preventDefault()
})
</script>

<template>
  <Button class="end" @click="close">End the lesson</Button>
  <Modal v-model:open="open" title="The end of the lesson" :footer="null" :width="560">
    <p v-if="busy" role="status">Letting go of everything …</p>
    <template v-else-if="closed">
      <p class="says" role="status">
        <VerdictChip :kind="closed.all_off ? 'holds' : 'wrong'">{{ closed.says }}</VerdictChip>
      </p>
      <ul>
        <li v-for="thing in closed.things" :key="thing.what">
          <VerdictChip :kind="thing.off ? 'holds' : 'wrong'">{{ thing.off ? 'Off' : 'On' }}</VerdictChip>
          <span
            >{{ thing.what }}<span v-if="thing.says" class="soft">: {{ thing.says }}</span></span
          >
        </li>
      </ul>
      <p class="row">
        <Button v-if="!closed.all_off" type="primary" @click="close">Look again</Button>
        <RouterLink to="/after" @click="open = false">Sheets and recording</RouterLink>
      </p>
    </template>
  </Modal>
</template>

<style scoped>
.end {
  min-height: 40px;
}
.says :deep(.chip) {
  white-space: normal;
}
ul {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 8px;
  margin: 12px 0;
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  overflow-wrap: anywhere;
}
li :deep(.chip) {
  flex: none;
}
.row {
  display: flex;
  gap: 14px;
  align-items: center;
}
</style>
