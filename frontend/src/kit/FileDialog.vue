<script setup lang="ts">
import { Button, Modal, Progress, Segmented } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import type { Device } from '@/api/client'
import { useLive } from '@/shared/live'
import RoleChoice from './RoleChoice.vue'
import type { Serves } from './serves'
import { ACCEPTED, upload, type FileKind } from './upload'

const live = useLive()
const shown = defineModel<boolean>('open', { required: true })
const props = defineProps<{ behind: Device | null }>()
const KINDS = [
  { value: 'pages', label: 'Pages' },
  { value: 'slides', label: 'Slides' },
  { value: 'clip', label: 'Clip' },
]
const WORDS: Record<FileKind, string> = {
  pages:
    'Pages captured beforehand: PDF, PNG or JPEG, one or several. They come in the order in which you choose them.',
  slides: 'Slides as a PDF: export them from the program that made them.',
  clip: 'A short clip: MP4 or WebM. Its sound is a source of its own, off until you switch it on.',
}
const kind = ref<FileKind>('pages')
const serves = ref<Serves>('nothing')
const share = ref<number | null>(null)
const troubles = ref<string[]>([])
const input = ref<HTMLInputElement>()
const accepted = computed(() => ACCEPTED[props.behind ? 'pages' : kind.value])
watch([shown, kind], () => {
  serves.value = kind.value === 'clip' || live.pageDevice ? 'nothing' : 'page' // a first guess; the teacher states it
  troubles.value = []
  share.value = null
})

async function take() {
  const chosen = [...(input.value?.files ?? [])]
  if (input.value) input.value.value = ''
  troubles.value = []
  let device = props.behind?.id
  for (const file of chosen) {
    share.value = 0
    try {
      const role = serves.value === 'nothing' || device ? undefined : serves.value
      const asked = {
        kind: props.behind ? ('pages' as const) : kind.value,
        ...(device ? { device_id: device } : {}),
        ...(role ? { serves: role } : {}),
      }
      const made = await upload(file, asked, (next) => (share.value = next))
      if (kind.value === 'pages') device = made.id
    } catch (error) {
      troubles.value.push((error as Error).message)
    }
  }
  share.value = null
  if (!troubles.value.length && chosen.length) shown.value = false
}
</script>

<template>
  <Modal
    v-model:open="shown"
    :title="behind ? `Add pages behind ${behind.name}` : 'Show pages, slides or a clip'"
    :footer="null"
    width="600px"
  >
    <div class="body">
      <template v-if="!behind">
        <Segmented v-model:value="kind" v-radios :options="KINDS" aria-label="What the file is" />
        <p>{{ WORDS[kind] }}</p>
        <RoleChoice v-model="serves" />
      </template>
      <ul v-if="troubles.length" class="wrong" role="alert">
        <li v-for="one in troubles" :key="one">{{ one }}</li>
      </ul>
      <Progress v-if="share !== null" :percent="Math.round(100 * share)" :show-info="false" />
      <div>
        <Button type="primary" :disabled="share !== null" @click="input?.click()">{{
          share === null ? 'Choose the file' : share < 1 ? 'On its way …' : 'Looking into it …'
        }}</Button>
      </div>
      <input
        ref="input"
        class="hidden"
        type="file"
        :accept="accepted"
        :multiple="behind !== null || kind === 'pages'"
        aria-label="File"
        tabindex="-1"
        @change="take"
      />
    </div>
  </Modal>
</template>

<style scoped>
.body {
  display: grid;
  justify-items: start;
  gap: 14px;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
  pointer-events: none;
}
.wrong {
  margin: 0;
  padding: 10px 14px 10px 28px;
  border-radius: 10px;
  background: var(--carnelian-tint);
  color: var(--carnelian);
}
</style>
