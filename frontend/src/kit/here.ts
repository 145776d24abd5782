import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useCameras } from './cameras'
import { camerasHere } from './capture'

/** Which of the kit's cameras this browser sees, which are missing and which are new. The rules are the server's. */
export const useHere = defineStore('here', () => {
  const found = ref<Schemas['RecognisedView'] | null>(null)
  const cameras = useCameras()
  let turn = 0

  async function look() {
    const mine = ++turn
    const present = (await camerasHere()).map(({ source, label }) => ({ source, label }))
    if (!present.some((one) => one.label)) return // not allowed yet: nothing can be told
    const next = await answer(api.POST('/api/kits/here', { body: { cameras: present } })).catch(() => null)
    if (mine !== turn || !next) return
    found.value = next
    next.moved.forEach(cameras.letGo) // it is brought anew from where it is now
  }

  return { found, look }
})
