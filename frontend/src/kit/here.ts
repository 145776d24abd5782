import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import { useCameras } from './cameras'
import { camerasHere } from './capture'

const SOON_MS = 1000 // where the server does not answer it is asked again, ever more rarely
const RARELY_MS = 30_000

/** Which of the kit's cameras this browser sees, which are missing and which are new. The rules are the server's. */
export const useHere = defineStore('here', () => {
  const found = ref<Schemas['RecognisedView'] | null>(null)
  const cameras = useCameras()
  const live = useLive()
  let asked = 0
  let told = 0

  async function look(wait = SOON_MS) {
    const mine = ++asked
    const present = (await camerasHere()).map(({ source, label, max_width, max_height }) => ({
      source,
      label,
      max_width,
      max_height,
    }))
    if (!present.some((one) => one.label)) return // not allowed yet: nothing can be told
    const next = await answer(api.POST('/api/kits/here', { body: { cameras: present } })).catch(() => null)
    if (!next) {
      setTimeout(() => mine === asked && void look(Math.min(2 * wait, RARELY_MS)), wait)
      return
    }
    for (const device of live.kit?.devices ?? []) {
      const source = next.sources[device.id] // that it moved is told once, in whatever order answers come
      if (source && next.moved.includes(device.id)) void cameras.bring({ ...device, source })
    }
    if (mine < told) return // a later look was answered before
    told = mine
    found.value = next
  }

  return { found, look: () => look() }
})
