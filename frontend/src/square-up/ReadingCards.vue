<script setup lang="ts">
import { computed } from 'vue'
import type { SquareUpView } from '@/api/client'
import { useLive } from '@/shared/live'
import VerdictChip from '@/shared/VerdictChip.vue'

const props = defineProps<{ view: SquareUpView }>()
const live = useLive()
const detail = computed(() => props.view.readings?.px_per_mm_least ?? null)
const square = computed(() => props.view.chain.square)
const learner = computed(() =>
  props.view.device.serves === 'page'
    ? live.state?.audiences.find((a) => !a.is_teacher && a.smallest_print_pt !== null)
    : undefined,
)
</script>

<template>
  <div class="readings">
    <div class="card">
      <span class="soft">Detail on the page</span>
      <span class="num big">{{ detail === null ? '–' : `${detail.toFixed(1)} px/mm` }}</span>
      <span class="soft small">{{
        detail === null ? 'Name the paper to know' : 'where the camera sees it worst'
      }}</span>
    </div>
    <div class="card">
      <span class="soft">Paper</span>
      <span class="num big">{{
        square.on && square.paper ? `${square.paper} ${square.lying ? 'lying' : 'upright'}` : '–'
      }}</span>
      <span class="soft small">{{
        view.confidence
          ? `found, ${Math.round(view.confidence * 100)} % sure`
          : square.paper
            ? 'as kept'
            : 'no paper named'
      }}</span>
    </div>
    <div class="card">
      <span class="soft">Smallest print, {{ learner?.name.toLowerCase() ?? 'learners' }}</span>
      <span class="num big">{{ learner?.smallest_print_pt ? `${learner.smallest_print_pt} pt` : '–' }}</span>
      <VerdictChip v-if="learner" :kind="learner.holds_usual_print ? 'holds' : 'look'">{{
        learner.holds_usual_print ? 'School print reads' : 'School print is lost'
      }}</VerdictChip>
      <span v-else class="soft small">known while it goes out as the page</span>
    </div>
    <div class="card">
      <span class="soft">Keystone</span>
      <span class="num big">{{
        view.readings?.keystone_vertical === null || !view.readings
          ? '–'
          : `${Math.round(view.readings.keystone_vertical)} / ${Math.round(view.readings.keystone_horizontal ?? 0)}`
      }}</span>
      <span class="soft small">vertical / horizontal, in per cent</span>
    </div>
  </div>
</template>

<style scoped>
.readings {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.card {
  padding: 9px 12px;
  display: flex;
  flex-direction: column;
  gap: 1px;
}
.big {
  font-size: 21px;
}
.small {
  font-size: 13.5px;
}
</style>
