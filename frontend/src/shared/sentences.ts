import { defineStore } from 'pinia'
import { ref } from 'vue'

const SHOWN_MS = 9000

/** One sentence at a time for the teacher, where something did not work. */
export const useSentences = defineStore('sentences', () => {
  const current = ref<string | null>(null)
  let timer = 0
  let said = 0

  function say(sentence: string) {
    said++
    current.value = sentence
    window.clearTimeout(timer)
    timer = window.setTimeout(() => (current.value = null), SHOWN_MS)
  }
  function dismiss() {
    current.value = null
  }
  /** Run something and say what went wrong, if it did. What was said before is over when it works; not what was said meanwhile. */
  async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
    const before = said
    try {
      const result = await work()
      if (said === before) dismiss()
      return result
    } catch (error) {
      say((error as Error).message)
      return undefined
    }
  }
  return { current, say, dismiss, attempt }
})
