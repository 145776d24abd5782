<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Device, Schemas, SquareUpView } from '@/api/client'
import { darker as darkerBy, useControls } from '@/shared/controls'
import VerdictChip from '@/shared/VerdictChip.vue'
import { spotSays } from './says'

const props = defineProps<{ view: SquareUpView; device?: Device; guest?: Schemas['GuestView'] }>()
const controls = useControls(
  computed(() => props.device),
  computed(() => props.guest),
)
const darker = computed(() => darkerBy(controls.spans.value, controls.settings.value))
const detail = computed(() => props.view.readings?.px_per_mm_min ?? null)
const square = computed(() => props.view.chain.square)
const light = computed(() => props.view.light)
const sharpness = computed(() => props.view.sharpness ?? null)
const printed = computed(() => props.view.printed)
const points = (value: number) => value.toFixed(1).replace(/\.0$/, '')
const paperSays = computed(() => {
  if (props.view.card) return 'measured from the set-up card'
  const sure = Math.min(99, Math.round((props.view.confidence ?? 0) * 100)) // of what was seen in a picture nobody is quite sure
  if (props.view.confidence)
    return `found, ${sure}% sure${props.view.sure === false ? ': check the corners' : ''}`
  return square.value.paper ? 'as kept' : 'no paper named'
})
</script>

<template>
  <div class="readings">
    <div class="card">
      <span class="soft">Sharpness</span>
      <span class="num big">{{ sharpness === null ? '–' : sharpness.toFixed(2) }}</span>
      <span v-if="sharpness === null" class="soft small">no edges to judge by</span>
      <VerdictChip v-else-if="view.in_focus" kind="holds">In focus</VerdictChip>
      <span v-else class="mend"
        ><VerdictChip kind="wrong">Out of focus</VerdictChip>
        <Button v-if="controls.canRefocus.value" size="small" @click="controls.focus">Refocus</Button>
        <template v-else>
          Press focus on the camera, or <RouterLink to="/kit">open its controls</RouterLink></template
        ></span
      >
    </div>
    <div class="card">
      <span class="soft">Lighting</span>
      <span class="num big">{{ light ? `1 : ${(1 / light.evenness).toFixed(1)}` : '–' }}</span>
      <span v-if="!light" class="soft small">too little bare paper to tell</span>
      <span v-else-if="light.verdict === 'too bright'" class="mend"
        ><VerdictChip kind="wrong">Too bright</VerdictChip>
        <Button v-if="darker" size="small" @click="controls.change(darker)">Lower the exposure</Button>
        <template v-else> Dim the screen or the lamp</template></span
      >
      <VerdictChip v-else-if="light.verdict === 'highlight' && light.clipped_at" kind="wrong"
        >Highlight, {{ spotSays(light.clipped_at) }}: turn the lamp</VerdictChip
      >
      <VerdictChip v-else-if="light.verdict === 'shadow' && light.shadow" kind="look"
        >Shadow, {{ spotSays(light.shadow) }}</VerdictChip
      >
      <VerdictChip v-else kind="holds">{{ light.verdict === 'even' ? 'Even' : 'Nearly even' }}</VerdictChip>
    </div>
    <div class="card">
      <span class="soft">Print on this page</span>
      <span class="num big">{{ printed?.smallest_pt ? `${points(printed.smallest_pt)} pt` : '–' }}</span>
      <span class="soft small">{{
        printed?.smallest_pt
          ? `smallest; most is ${points(printed.usual_pt ?? printed.smallest_pt)} pt`
          : detail === null
            ? 'name the paper to measure it'
            : 'no print seen'
      }}</span>
    </div>
    <div class="card">
      <span class="soft">Paper</span>
      <span class="num big">{{
        square.on && square.paper ? `${square.paper} ${square.lying ? 'landscape' : 'portrait'}` : '–'
      }}</span>
      <span class="soft small"
        >{{ paperSays }}{{ detail === null ? '' : ` · ${detail.toFixed(1)} px/mm` }}</span
      >
    </div>
  </div>
</template>

<style scoped>
.readings {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.card {
  padding: 5px 12px 6px;
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: baseline;
  justify-items: start;
}
.card > :last-child {
  grid-column: 1 / -1;
}
.big {
  font-size: 19px;
  line-height: 1.3;
}
.card {
  column-gap: 8px;
}
.card > .soft:first-child {
  overflow-wrap: anywhere;
}
.big {
  white-space: nowrap;
}
.mend {
  font-size: 13.5px;
}
@media (max-width: 1180px) {
  .readings {
    gap: 5px;
  }
  .card {
    padding: 2px 9px 3px;
    font-size: 13.5px;
  }
  .big {
    font-size: 15px;
  }
}
.small {
  font-size: 13.5px;
}
</style>
