<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { showOnBoard } from './board'
import { useWays } from './ways'

defineProps<{ view: Schemas['WaysView'] }>()
const ways = useWays()
const sentences = useSentences()
const busy = ref(false)

async function board() {
  busy.value = true
  const why = await showOnBoard()
  busy.value = false
  if (why) sentences.say(why)
}
const takersNamed = (view: Schemas['WaysView'], name: string) =>
  view.takers.find((one) => one.kind === 'viewer' && one.name === name)
</script>

<template>
  <section class="card" aria-label="The board in the room">
    <h2>The board in the room, a co-teacher</h2>
    <div class="row">
      <Button :loading="busy" @click="board">Show on the board</Button>
      <span class="soft">on a second screen of this computer: full screen, silent, never mirrored</span>
    </div>
    <div v-if="view.invitation && !view.invitation.watcher_id" class="invited">
      <!-- eslint-disable-next-line vue/no-v-html -->
      <div class="qr" role="img" aria-label="QR code of the address" v-html="view.invitation.qr" />
      <div>
        <p class="num address">{{ view.invitation.address }}</p>
        <output class="num">{{ view.invitation.code }}</output>
        <Button size="small" @click="ways.withdraw">Withdraw</Button>
      </div>
    </div>
    <Button v-else @click="ways.invite">Invite a screen to watch</Button>
    <ul v-if="view.watchers.length">
      <li v-for="one in view.watchers" :key="one.id">
        <span
          ><strong>{{ one.name }}</strong>
          <span class="soft">{{ takersNamed(view, one.name) ? ' watches' : ' is not here' }}</span></span
        >
        <Button size="small" type="text" :aria-label="`End ${one.name}`" @click="ways.forget(one.id)"
          >End</Button
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  padding: 14px 18px;
  display: grid;
  gap: 10px;
  justify-items: start;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 13.5px;
}
.invited {
  display: flex;
  gap: 14px;
}
.qr :deep(svg) {
  width: 120px;
  height: 120px;
}
output {
  display: block;
  font-size: 24px;
  letter-spacing: 0.12em;
}
.address {
  overflow-wrap: anywhere;
  font-size: 13px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
li {
  display: flex;
  justify-content: space-between;
}
</style>
