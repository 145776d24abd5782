<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useLive } from './live'
import { useOutgoing } from './outgoing'

const outgoing = useOutgoing()
const live = useLive()
const says = computed(() => live.state?.outgoing.window_says ?? live.state?.outgoing.taker_says ?? null)
const SAYS = {
  closed: 'The outgoing window is closed. Whoever it was shared with sees nothing of it any more.',
  blocked:
    'The browser has blocked the outgoing window. Allow pop-ups for this page by the icon in the address bar, then open it.',
}
</script>

<template>
  <div v-if="!outgoing.lost && says" class="lost" role="alert">
    <span>{{ says }}</span>
    <Button v-if="outgoing.mine && live.state?.outgoing.window_says" type="primary" @click="outgoing.forward"
      >Bring it to the front</Button
    >
  </div>
  <div v-if="outgoing.lost" class="lost" role="alert">
    <span>{{ SAYS[outgoing.lost] }}</span>
    <Button type="primary" @click="outgoing.open">{{
      outgoing.lost === 'closed' ? 'Open it again' : 'Open it'
    }}</Button>
    <Button @click="outgoing.dismiss">{{
      outgoing.lost === 'closed' ? 'It was meant to end' : 'Not now'
    }}</Button>
  </div>
</template>

<style scoped>
.lost {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 8px 20px;
  background: var(--carnelian-tint);
  color: var(--carnelian);
  font-weight: 650;
}
.lost span {
  flex: 1;
}
</style>
