<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useLive } from '@/shared/live'
import { useOutgoing } from '@/shared/outgoing'
import { useWays } from '@/ways/ways'

/** The one press that sends the picture out, and the one thing to press in the call. */
const live = useLive()
const ways = useWays()
const outgoing = useOutgoing()
const router = useRouter()
const pressed = ref(false)
const out = computed(() => (live.state?.outgoing.windows ?? 0) > 0 || !!live.state?.outgoing.taken_by)
const byExtension = computed(
  () => ways.view?.ways.some((way) => way.id === 'extension' && way.ready) ?? false,
)
onMounted(() => void ways.again())

function go() {
  pressed.value = true
  if (!byExtension.value) outgoing.open()
}
</script>

<template>
  <section class="card" aria-label="Go out">
    <svg viewBox="0 0 120 70" aria-hidden="true">
      <rect x="3" y="6" width="66" height="46" rx="5" />
      <path d="M3 15h66M9 10.5h1M14 10.5h1" />
      <rect class="ours" x="14" y="21" width="44" height="25" rx="4" />
      <path d="M76 33h16M87 27l6 6-6 6" />
      <rect x="97" y="17" width="20" height="14" rx="3" />
      <rect x="97" y="36" width="20" height="14" rx="3" />
      <path v-if="byExtension" class="ours" d="M30 60h12M36 46v14" />
      <path v-else class="ours" d="M36 66V56M31 61l5-5 5 5" />
    </svg>
    <div>
      <h2>{{ out ? 'Your page goes out' : 'Into the call' }}</h2>
      <p v-if="byExtension">In your call, choose <b>Cartouche</b> as camera and as microphone.</p>
      <p v-else-if="pressed || out">
        In your call press <b>Share</b>, then choose the window or tab <b>Cartouche outgoing</b>. Leave it
        open and visible.
      </p>
      <p v-else>A window opens that shows what learners get. You then share it in your call.</p>
      <div class="row">
        <Button :type="out ? 'default' : 'primary'" size="large" @click="go">{{
          byExtension ? 'Show me' : out ? 'Bring the window to the front' : 'Go out'
        }}</Button>
        <Button v-if="out" type="primary" size="large" @click="router.push('/teach')">Teach</Button>
        <Button size="large" type="link" @click="router.push('/way-in')">Other ways in</Button>
      </div>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
  gap: 16px;
  align-items: center;
  padding: 14px;
}
svg {
  width: 132px;
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.8;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.ours {
  stroke: var(--lapis);
  stroke-width: 2.6;
}
p {
  margin: 4px 0 10px;
}
.row {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
</style>
