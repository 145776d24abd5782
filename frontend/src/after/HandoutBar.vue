<script setup lang="ts">
import { Button, Segmented, Switch } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Held } from './after'
import { at } from '@/shared/at'

/** The handout that writes itself, and all of it for those who were absent. */
const props = defineProps<{ held: Held }>()
const perPage = ref(1)
const paper = ref<'A4' | 'Letter'>('A4')
const ink = ref(true)
const base = computed(() => at(`/api/after/lessons/${props.held.lesson_id}`))
const handout = computed(
  () => `${base.value}/handout.pdf?per_page=${perPage.value}&paper=${paper.value}&ink=${ink.value}`,
)
</script>

<template>
  <div class="card bar" role="group" aria-label="Handout">
    <template v-if="held.sheets.length">
      <Button type="primary" :href="handout" download>Save the handout (PDF)</Button>
      <Segmented
        v-model:value="perPage"
        v-radios
        :options="[
          { value: 1, label: '1 a page' },
          { value: 2, label: '2' },
          { value: 4, label: '4' },
        ]"
        aria-label="Sheets to a page"
      />
      <Segmented v-model:value="paper" v-radios :options="['A4', 'Letter']" aria-label="Paper" />
      <label><Switch v-model:checked="ink" /> With ink</label>
    </template>
    <span v-else class="soft">No sheet was kept, so there is no handout.</span>
    <span class="fill" />
    <Button :href="`${base}/share.zip`" download>Save all of it (ZIP)</Button>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  padding: 10px 12px;
}
.fill {
  flex: 1;
}
label {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
</style>
