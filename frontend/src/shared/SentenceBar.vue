<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useLive } from './live'
import { useSentences } from './sentences'

const sentences = useSentences()
const live = useLive()
const read = ref('') // what was said of the kept file, and closed
const kept = computed(() => (live.state?.kept_says === read.value ? '' : (live.state?.kept_says ?? '')))
const away = computed(() =>
  live.state && !live.connected ? 'Cartouche isn’t answering. Start it again; your settings are kept.' : '',
)
function close() {
  if (sentences.current) sentences.dismiss()
  else read.value = kept.value
}
</script>

<template>
  <div v-if="sentences.current || away || kept" class="bar" role="alert">
    <p>{{ sentences.current ?? (away || kept) }}</p>
    <Button v-if="sentences.current || !away" size="small" @click="close">Close</Button>
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
