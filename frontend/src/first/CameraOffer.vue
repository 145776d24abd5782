<script setup lang="ts">
import { Button } from 'ant-design-vue'
import CameraPreview from '@/kit/CameraPreview.vue'
import { TROUBLES } from '@/kit/capture'
import type { Offered } from './offered'

type Role = 'page' | 'face'
defineProps<{
  camera: Offered
  name: string
  role: Role | null
  proposed: boolean // not chosen by the teacher yet
  sure: number | null
}>()
const emit = defineEmits<{ choose: [role: Role | null] }>()
const WORDS = { page: 'Page', face: 'Face' } as const
const percent = (share: number) => Math.min(99, Math.round(100 * share))
</script>

<template>
  <li class="card" :class="{ proposed: role && proposed, chosen: role && !proposed }" :aria-label="name">
    <CameraPreview v-if="camera.stream" :stream="camera.stream" :label="name" />
    <p v-else-if="camera.trouble" class="soft trouble">{{ TROUBLES[camera.trouble].sentence }}</p>
    <div class="below">
      <b class="name">{{ name }}</b>
      <span v-if="role && proposed" class="says"
        >{{ WORDS[role] }}?{{ sure === null ? '' : ` ${percent(sure)}% sure` }}</span
      >
      <span v-else-if="role" class="says">{{ WORDS[role] }}</span>
      <span class="roles">
        <Button
          v-for="one in ['page', 'face'] as const"
          :key="one"
          size="small"
          :disabled="!camera.stream"
          :type="role === one && !proposed ? 'primary' : 'default'"
          :aria-pressed="role === one"
          :aria-label="`${name} shows the ${one}`"
          @click="emit('choose', role === one && !proposed ? null : one)"
          >{{ WORDS[one] }}</Button
        >
      </span>
    </div>
  </li>
</template>

<style scoped>
li {
  overflow: hidden;
  border-width: 2px;
}
.proposed {
  border: 2px dashed var(--lapis);
}
.chosen {
  border: 2px solid var(--lapis);
}
.below {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 10px;
  align-items: center;
  padding: 8px 12px 10px;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.says {
  color: var(--lapis);
  font-weight: 650;
  justify-self: end;
}
.roles {
  grid-column: 1 / -1;
  display: flex;
  gap: 6px;
}
.trouble {
  padding: 12px;
  aspect-ratio: 16 / 9;
}
</style>
