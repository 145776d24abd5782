import { defineStore } from 'pinia'
import { onScopeDispose, ref } from 'vue'
import { useLive } from './live'
import { useSentences } from './sentences'
import { at } from '@/shared/at'

const NAME = 'cartouche-outgoing' // one window, reused whoever opens it
const LOOK_EVERY_MS = 700
const NEWS_WITHIN_MS = 4000 // on a busy computer the server hears later than this tab that a window is closed

/** The outgoing window as this tab opened it: whether it is there, was blocked, or was closed in mid-lesson. */
export const useOutgoing = defineStore('outgoing', () => {
  const live = useLive()
  const sentences = useSentences()
  const lost = ref<'blocked' | 'closed' | null>(null)
  const mine = ref(false) // opened by this tab, which alone may bring it forward
  let opened: Window | null = null
  let lostAt = 0

  function open() {
    opened = window.open(at('/outgoing'), NAME, 'popup,width=1280,height=720')
    lost.value = opened ? null : 'blocked'
    mine.value = opened !== null
    if (opened) {
      opened.focus()
      sentences.dismiss()
    }
  }
  function look() {
    if (opened?.closed) {
      opened = null
      mine.value = false
      lost.value = 'closed'
      lostAt = Date.now()
    }
    const windows = live.state?.outgoing.windows ?? 0
    if (!windows) lostAt = 0 // the news know that it is gone: one more is another
    if (lost.value && windows > 0 && Date.now() - lostAt > NEWS_WITHIN_MS) lost.value = null // another tab has opened one
  }
  /** It was meant to end: the lesson is over. */
  function close() {
    opened?.close()
    opened = null
    mine.value = false
    lost.value = null
  }
  const forward = () => opened?.focus()
  /** It was meant to end. */
  const dismiss = () => (lost.value = null)

  const timer = window.setInterval(look, LOOK_EVERY_MS)
  onScopeDispose(() => window.clearInterval(timer))
  return { lost, mine, open, close, forward, dismiss }
})
