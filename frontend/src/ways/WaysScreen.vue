<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import SurfaceView from '@/shared/SurfaceView.vue'
import CallCard from './CallCard.vue'
import ViewersCard from './ViewersCard.vue'
import WatchCard from './WatchCard.vue'
import WayDetails from './WayDetails.vue'
import WayRow from './WayRow.vue'
import { useWays } from './ways'

const ways = useWays()
const chosen = ref<string | null>(null)
const shown = computed(() => ways.view?.ways ?? [])
const way = computed(
  () =>
    shown.value.find((one) => one.id === chosen.value) ??
    shown.value.find((one) => one.running) ??
    shown.value[0] ??
    null,
)
onMounted(() => void ways.again())
useIntervalFn(() => void ways.again(), ways.EVERY_MS)
</script>

<template>
  <main class="screen ways">
    <section v-if="ways.view" class="left" aria-label="The ways into the call">
      <div class="card advice">
        <SurfaceView surface="outgoing" :width="320" :fps="10" label="What goes out" class="small" />
        <p role="status">{{ ways.view.advice }}</p>
      </div>
      <div class="card list">
        <div class="head" aria-hidden="true">
          <span>Way</span><span>Print all can read</span><span>Your face</span><span>Arrives</span
          ><span>Late</span><span>Sound</span><span>Presses</span>
        </div>
        <WayRow
          v-for="(one, at) in shown"
          :key="one.id"
          :way="one"
          :best="at === 0 && !one.impossible"
          :chosen="one.id === way?.id"
          @choose="chosen = one.id"
        />
      </div>
      <ViewersCard :view="ways.view" />
    </section>
    <aside v-if="ways.view && way" aria-label="This way">
      <WayDetails :way="way" :view="ways.view" />
      <WatchCard :view="ways.view" />
      <CallCard :view="ways.view" />
    </aside>
    <p v-if="!ways.view" class="soft">One moment</p>
  </main>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(340px, 420px);
  gap: 16px;
  overflow: auto;
  align-items: start;
}
.left {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
.advice {
  display: grid;
  grid-template-columns: 160px 1fr;
  gap: 16px;
  align-items: center;
  padding: 12px 14px;
  font-size: 17px;
  font-weight: 600;
}
.small {
  width: 160px;
  height: 90px;
  border-radius: 8px;
  overflow: hidden;
}
.list {
  padding: 8px;
}
.head {
  display: grid;
  grid-template-columns: 1.5fr 1fr 0.9fr 0.95fr 0.5fr 0.6fr 0.45fr;
  gap: 8px;
  padding: 4px 13px 6px;
  color: var(--soft);
  font-size: 13px;
}
aside {
  display: grid;
  gap: 12px;
}
@media (max-width: 1100px) {
  .ways {
    grid-template-columns: 1fr;
  }
}
</style>
