<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import RigChoice from './RigChoice.vue'
import RoleChoice from './RoleChoice.vue'
import type { Serves } from './serves'

const shown = defineModel<boolean>('open', { required: true })
defineProps<{ rigs: Schemas['RigView'][] }>()
const address = ref('')
const name = ref('')
const rig = ref<Schemas['RigView']['id']>('arm-own-side')
const serves = ref<Serves>('page')
const trouble = ref<string | null>(null)
watch(shown, () => (trouble.value = null))

async function use() {
  const body = {
    kind: 'stream' as const,
    source: address.value.trim(),
    label: 'Network stream',
    name: name.value.trim() || 'Network camera',
    rig: rig.value,
    serves: serves.value === 'nothing' ? null : serves.value,
    microphone: '',
    whole_screen: false,
  }
  try {
    await answer(api.POST('/api/kit/devices', { body }))
    shown.value = false
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
</script>

<template>
  <Modal v-model:open="shown" title="Use a network stream" :footer="null" width="560px">
    <form class="body" @submit.prevent="use">
      <label
        >Its address, as the camera’s manual or app shows it
        <Input v-model:value="address" placeholder="rtsp://camera.local/stream" :maxlength="1000" />
      </label>
      <label
        >Your name for it <Input v-model:value="name" :maxlength="60" placeholder="Network camera"
      /></label>
      <RoleChoice v-model="serves" />
      <RigChoice :rig="rig" :rigs="rigs" @change="(value) => (rig = value)" />
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <div>
        <Button type="primary" html-type="submit" :disabled="!address.trim()">Use this stream</Button>
      </div>
    </form>
  </Modal>
</template>

<style scoped>
.body {
  display: grid;
  gap: 14px;
}
label {
  display: grid;
  gap: 6px;
}
.wrong {
  color: var(--carnelian);
}
</style>
