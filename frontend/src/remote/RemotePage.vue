<script setup lang="ts">
import { Button, ConfigProvider } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import EnterCode from '@/shared/EnterCode.vue'
import { theme } from '@/shared/theme'
import type { ActionName } from '@/teach/actions'
import { useTicking } from '@/teach/ticking'
import RemotePad from '@/teach/RemotePad.vue'
import DrawPad from './DrawPad.vue'
import { ask, enter, NotInvited, press, token, type RemoteView } from './remote'
import { at } from '@/shared/at'

const view = shallowRef<RemoteView | null>(null)
const { told, counting, heldS, recordedS } = useTicking(computed(() => view.value?.tools))
const sentence = ref<string | null>(null)
const said = ref<string | null>(null)
const waits = ref(false)
const lost = ref(false)
const code = ref('')
const inside = ref(!!token.get())
const looks = ref(false)
const draws = ref(false)
const WIDE = { looks: 480, draws: 1280 }
const picture = ref<string | null>(null)
let ended = false

function take(next: RemoteView) {
  view.value = next
  told()
  if (next.tools.said) said.value = next.tools.said
}
function out(error: Error) {
  token.forget()
  inside.value = false
  view.value = null
  sentence.value = error.message
}
async function follow() {
  while (!ended && inside.value) {
    try {
      take(await ask<RemoteView>(`state?version=${view.value?.version ?? -1}`))
      lost.value = false
    } catch (error) {
      if (error instanceof NotInvited) return out(error)
      lost.value = true
      await new Promise((done) => setTimeout(done, 700))
    }
  }
}
async function come() {
  sentence.value = null
  try {
    await enter(code.value)
    history.replaceState(null, '', location.pathname)
    inside.value = true
    void follow()
  } catch (error) {
    sentence.value = (error as Error).message
  }
}
let turn: Promise<unknown> = Promise.resolve()
function act(action: ActionName, number?: number) {
  said.value = null
  turn = turn.then(async () => {
    try {
      take(await press(action, number, (waiting) => (waits.value = waiting)))
    } catch (error) {
      if (error instanceof NotInvited) out(error)
      else said.value = (error as Error).message
    }
  })
}
async function watchPicture() {
  while (!ended && looks.value && inside.value) {
    const answer = await fetch(at(`/api/remote/picture.jpg?wide=${draws.value ? WIDE.draws : WIDE.looks}`), {
      headers: { Authorization: `Bearer ${token.get() ?? ''}` },
    }).catch(() => null)
    if (answer?.status === 200) {
      const before = picture.value
      picture.value = URL.createObjectURL(await answer.blob())
      if (before) URL.revokeObjectURL(before)
    }
    await new Promise((done) => setTimeout(done, draws.value ? 80 : 250))
  }
}
function toggle() {
  looks.value = !looks.value
  if (looks.value) void watchPicture()
  else draws.value = false
}
function draw() {
  if (!looks.value) toggle()
  draws.value = true
}
const change = (work: 'undo' | 'clear') => to('ink', { do: work })
async function to(path: 'mute' | 'ink', body: object = {}) {
  said.value = null
  try {
    take(await ask<RemoteView>(path, { method: 'POST', body: JSON.stringify(body) }))
  } catch (error) {
    if (error instanceof NotInvited) out(error)
    else said.value = (error as Error).message
  }
}
const state = computed(() => {
  if (waits.value) return 'No network: the press waits and is sent once'
  if (lost.value) return 'The teacher’s computer does not answer. It is tried again.'
  return said.value ?? view.value?.state ?? 'One moment'
})

onMounted(() => {
  const invited = location.hash.slice(1)
  if (invited) {
    code.value = invited
    inside.value = false
  } else if (inside.value) void follow()
})
onBeforeUnmount(() => (ended = true))
</script>

<template>
  <ConfigProvider :theme="theme">
    <main :class="{ wide: draws }">
      <template v-if="inside">
        <h1>Remote</h1>
        <DrawPad v-if="draws" :picture="picture" @say="said = $event" @ink="change" @done="draws = false" />
        <img v-else-if="looks && picture" :src="picture" alt="The outgoing picture" />
        <RemotePad
          :tools="view?.tools ?? null"
          :plates="view?.plates ?? []"
          :on="view?.plate_on ?? null"
          :counting="counting"
          :held-s="heldS"
          :recorded-s="recordedS"
          :state="state"
          :wrong="lost || waits || (view?.wrong ?? false)"
          :microphone="view?.microphone ?? null"
          @act="act"
          @mute="to('mute')"
        />
        <Button class="look" @click="toggle">{{
          looks ? 'Hide the picture' : 'Show the picture here'
        }}</Button>
        <Button v-if="!draws" class="look" @click="draw">Draw on the page</Button>
      </template>
      <EnterCode
        v-else
        v-model="code"
        title="This phone as remote"
        press="Use as remote"
        :refused="sentence"
        @come="come"
      >
        It presses the keys of the lesson and draws on the page. It sends no picture and no sound.
      </EnterCode>
    </main>
  </ConfigProvider>
</template>

<style scoped>
main {
  flex: 1;
  display: grid;
  gap: 12px;
  align-content: start;
  padding: 14px;
  max-width: 560px;
  width: 100%;
  margin: 0 auto;
  background: var(--paper);
  box-sizing: border-box;
}
main.wide {
  max-width: 1100px;
}
h1 {
  font-size: 18px;
}
img {
  width: 100%;
  border-radius: 10px;
  border: 1px solid var(--line);
}
main :deep(.pad button) {
  min-height: 68px;
  font-size: 17px;
}
main :deep(.pad .plates button) {
  min-height: 54px;
}
.look {
  min-height: 48px;
}
</style>
