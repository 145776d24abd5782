<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { SquareUpView } from '@/api/client'
import { useLive } from '@/shared/live'
import VerdictChip from '@/shared/VerdictChip.vue'
import { PRESSES, type Press } from './presses'

const props = defineProps<{ view: SquareUpView }>()
const emit = defineEmits<{ take: [way: Press] }>()
const live = useLive()

const learners = computed(() =>
  (live.state?.audiences ?? []).filter((one) => !one.is_teacher && one.smallest_print_pt !== null),
)
const shown = computed(() => props.view.device.serves === 'page' && learners.value.length > 0)
const times = (value: number | null | undefined) => (value ?? 1).toFixed(1)
</script>

<template>
  <section v-if="shown" class="card small-print" aria-label="Small print">
    <div class="each">
      <div v-for="one in learners" :key="one.id">
        <span class="soft">{{ one.name }}</span>
        <VerdictChip v-if="(one.reads ?? null) === null" kind="unknown"
          >to <span class="num">{{ one.smallest_print_pt }} pt</span></VerdictChip
        >
        <VerdictChip v-else-if="one.reads" kind="holds">Readable</VerdictChip>
        <VerdictChip v-else kind="look">Needs {{ times(one.too_small_by) }}× larger</VerdictChip>
        <span class="soft"
          >{{ one.smallest_print_pt }} pt and up<template v-if="one.words"
            >, {{ Math.round(one.words) }} words</template
          ></span
        >
      </div>
    </div>
    <ul v-if="view.advice.length">
      <li v-for="one in view.advice.slice(0, 2)" :key="one.way">
        <span
          >{{ one.says
          }}<b v-if="one.worst_pt !== null && one.worst_pt !== undefined"
            >: {{ one.reads ? 'all can read it' : `readable to ${one.worst_pt.toFixed(1)} pt`
            }}<template v-if="one.words">, {{ Math.round(one.words) }} words across</template></b
          ></span
        >
        <Button size="small" @click="emit('take', one.way)">{{ PRESSES[one.way] }}</Button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.small-print {
  margin-top: 8px;
  padding: 7px 12px 8px;
  font-size: 13.5px;
}
.each {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.each > div {
  display: grid;
  justify-items: start;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  border-top: 1px solid var(--line);
  padding-top: 4px;
}
</style>
