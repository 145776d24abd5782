<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted } from 'vue'
import { useRouter } from 'vue-router'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
import { useLive } from '@/shared/live'
import SurfaceView from '@/shared/SurfaceView.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import CheckRow from './CheckRow.vue'
import { useMend } from './mend'
import { EVERY_MS, useReady, WORDS } from './ready'
import SymptomWalk from './SymptomWalk.vue'
import TrialCard from './TrialCard.vue'

const ready = useReady()
const live = useLive()
const router = useRouter()
const { mend, busy } = useMend()
const checks = computed(() => ready.view?.checks ?? [])
const firstPress = computed(() => checks.value.find((check) => check.press && check.verdict !== 'holds')?.id)
const summary = computed(() => ready.view?.summary)

onMounted(() => void ready.again())
useIntervalFn(() => void ready.again(), EVERY_MS)
</script>

<template>
  <main class="screen ready">
    <section aria-label="The check">
      <div v-if="summary" class="summary card" role="status">
        <VerdictChip :kind="summary.verdict">{{
          summary.verdict === 'holds' ? 'Ready' : WORDS[summary.verdict]
        }}</VerdictChip>
        <p>{{ summary.says }}</p>
        <Button :type="summary.wrong ? 'default' : 'primary'" size="large" @click="router.push('/teach')"
          >Teach this lesson</Button
        >
      </div>
      <ol class="card">
        <CheckRow
          v-for="check in checks"
          :key="check.id"
          :check="check"
          :busy="busy === check.id"
          :first="check.id === firstPress && !!summary?.wrong"
          @mend="mend(check)"
        />
      </ol>
      <p v-if="!ready.view" class="soft">One moment</p>
    </section>
    <aside>
      <CartoucheFrame :live="live.state?.going_out ?? false" class="out">
        <div class="picture">
          <SurfaceView surface="outgoing" :width="360" :fps="10" label="What goes out" />
        </div>
      </CartoucheFrame>
      <TrialCard />
      <SymptomWalk />
    </aside>
  </main>
</template>

<style scoped>
.ready {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 20px;
  overflow: auto;
  align-items: start;
}
.summary {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  align-items: center;
  gap: 14px;
  padding: 12px 14px;
  margin-bottom: 12px;
}
.summary p {
  margin: 0;
  font-size: 17px;
  font-weight: 600;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
aside {
  display: grid;
  gap: 14px;
}
.out {
  width: calc(100% - 12px);
}
.picture {
  aspect-ratio: 16 / 9;
}
@media (max-width: 1180px) {
  .ready {
    grid-template-columns: minmax(0, 1fr) 250px;
    gap: 14px;
  }
}
</style>
