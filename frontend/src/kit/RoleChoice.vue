<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed } from 'vue'
import { useLive } from '@/shared/live'
import { SERVES, type Serves } from './serves'

/** What a new device serves as is the teacher's statement; whom it replaces is said before. */
const serves = defineModel<Serves>({ required: true })
const live = useLive()
const replaced = computed(() =>
  serves.value === 'page' ? live.pageDevice?.name : serves.value === 'face' ? live.faceDevice?.name : null,
)
</script>

<template>
  <div class="serves">
    <span>It serves as</span
    ><Segmented v-model:value="serves" v-radios :options="SERVES" aria-label="It serves as" />
    <span v-if="replaced" class="soft">instead of {{ replaced }}</span>
  </div>
</template>

<style scoped>
.serves {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
}
</style>
