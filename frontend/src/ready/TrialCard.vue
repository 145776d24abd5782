<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, shallowRef, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'

const live = useLive()
const sentences = useSentences()
const trial = shallowRef<Schemas['TrialView'] | null>(null)
const busy = shallowRef(false)
const when = computed(() => trial.value?.at.replace('T', ', ') ?? '')

watch(
  () => live.state?.lesson_id,
  async (lesson) => {
    trial.value = null
    if (lesson) trial.value = await answer(api.GET('/api/ready/trial')).catch(() => null)
  },
  { immediate: true },
)
async function tryIt() {
  busy.value = true
  const tried = await sentences.attempt(() => answer(api.POST('/api/ready/trial')))
  busy.value = false
  if (tried) trial.value = tried
}
</script>

<template>
  <section class="card" aria-label="Try the real page">
    <h2>Try the real page</h2>
    <p class="soft">Lay it under the camera, then press. What each would read is kept with the lesson.</p>
    <dl v-if="trial">
      <template v-for="one in trial.audiences" :key="one.name">
        <dt>{{ one.name }}</dt>
        <dd class="num">
          {{ one.smallest_pt === null ? '–' : `${one.smallest_pt} pt` }}
          <span class="soft">{{
            one.reads === null ? '' : one.reads ? 'reads all' : 'not its smallest'
          }}</span>
        </dd>
      </template>
    </dl>
    <p v-if="trial" class="soft">
      Tried {{ when
      }}<template v-if="trial.asks_pt">; its smallest print is {{ trial.asks_pt.toFixed(1) }} pt</template>.
    </p>
    <Button :loading="busy" @click="tryIt">{{ trial ? 'Try again' : 'Try it now' }}</Button>
  </section>
</template>

<style scoped>
section {
  padding: 12px 14px;
  display: grid;
  gap: 8px;
  justify-items: start;
}
p {
  margin: 0;
  font-size: 13.5px;
}
dl {
  display: grid;
  grid-template-columns: auto auto;
  gap: 2px 14px;
  margin: 0;
  font-size: 14px;
}
dd {
  margin: 0;
}
</style>
