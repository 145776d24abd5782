<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useLive } from './live'
import { useSentences } from './sentences'

const sentences = useSentences()
const live = useLive()
</script>

<template>
  <div v-if="sentences.current || (live.state && !live.connected)" class="bar" role="alert">
    <p>
      {{ sentences.current ?? 'Cartouche isn’t answering. Start it again; your settings are kept.' }}
    </p>
    <Button v-if="sentences.current" size="small" @click="sentences.dismiss()">Close</Button>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
  padding: 7px 20px;
  background: var(--carnelian-tint);
  color: var(--carnelian);
  border-bottom: 1px solid var(--line);
}
</style>
