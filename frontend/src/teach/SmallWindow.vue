<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { answer, api } from '@/api/client'
import { computed, inject, onMounted, ref } from 'vue'
import { routerKey } from 'vue-router'
import SurfaceView from '@/shared/SurfaceView.vue'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import RemotePad from './RemotePad.vue'
import type { ActionName } from './actions'
import { useTools } from './tools'
import { useActionKeys } from './useActionKeys'

/** What stays on top of the call: the outgoing picture, its state in one line, and the lesson's keys. */
const live = useLive()
const tools = useTools()
const sentences = useSentences()
const route = inject(routerKey, null)?.currentRoute.value.meta.bare
const root = ref<HTMLElement>()
const home = ref<Window | null>(null)
onMounted(() => {
  if (route) live.start() // a window of its own hears for itself
})
onMounted(() => (home.value = root.value?.ownerDocument.defaultView ?? window))
useActionKeys(() => home.value)
useEventListener(home, 'keydown', (event: KeyboardEvent) => {
  if (event.key.toLowerCase() === 'm' && !event.ctrlKey && !event.metaKey && !event.altKey) mute()
})
function mute() {
  void sentences.attempt(() => answer(api.PUT('/api/sound/open', { body: { id: null } })))
}

const away = computed(() => live.away[0])
const wrong = computed(
  () => !live.connected || !!away.value || !!live.state?.outgoing.trouble || !!sentences.current,
)
const state = computed(() => {
  if (!live.connected) return 'Cartouche does not answer. It is tried again.'
  if (sentences.current) return sentences.current
  if (away.value) return `${away.value.name}: no picture`
  return (
    live.state?.outgoing.trouble ?? (live.state?.going_out ? 'Learners see this' : 'Nothing goes out yet')
  )
})
const act = (action: ActionName, number?: number) => void tools.act(action, number)
</script>

<template>
  <main ref="root" class="small">
    <CartoucheFrame :live="live.state?.going_out">
      <div class="picture">
        <SurfaceView surface="outgoing" :width="480" :fps="12" label="The outgoing picture" />
      </div>
    </CartoucheFrame>
    <RemotePad
      :tools="tools.view"
      :plates="live.teach?.plates ?? []"
      :on="live.state?.outgoing.plate_id ?? null"
      :counting="tools.counting"
      :held-s="tools.heldS"
      :recorded-s="tools.recordedS"
      :state="state"
      :wrong="wrong"
      :microphone="live.microphone"
      @act="act"
      @mute="mute"
    />
  </main>
</template>

<style scoped>
.small {
  padding: 10px;
  display: grid;
  gap: 10px;
  align-content: start;
  background: var(--paper);
  min-height: 100vh;
  overflow-y: auto;
  box-sizing: border-box;
}
.picture {
  aspect-ratio: 16/9;
}
</style>
