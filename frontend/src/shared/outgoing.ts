import { defineStore } from 'pinia'
import { onScopeDispose, ref } from 'vue'
import { useLive } from './live'
import { useSentences } from './sentences'

const NAME = 'cartouche-outgoing' // one window, reused whoever opens it
const LOOK_EVERY_MS = 700

/** The outgoing window as this tab opened it: whether it is there, was blocked, or was closed in mid-lesson. */
export const useOutgoing = defineStore('outgoing', () => {
  const live = useLive()
  const sentences = useSentences()
  const lost = ref<'blocked' | 'closed' | null>(null)
  let opened: Window | null = null

  function open() {
    opened = window.open('/outgoing', NAME, 'popup,width=1280,height=720')
    lost.value = opened ? null : 'blocked'
    if (opened) {
      opened.focus()
      sentences.dismiss()
    }
  }
  function look() {
    if (opened?.closed) {
      opened = null
      lost.value = 'closed'
    }
    if (lost.value && (live.state?.outgoing.windows ?? 0) > 0) lost.value = null // another tab has opened one
  }
  /** It was meant to end. */
  const dismiss = () => (lost.value = null)

  const timer = window.setInterval(look, LOOK_EVERY_MS)
  onScopeDispose(() => window.clearInterval(timer))
  return { lost, open, dismiss }
})
