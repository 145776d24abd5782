import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import { useCameras } from './cameras'
import { camerasHere } from './capture'

/** Which of the kit's cameras this browser sees, which are missing and which are new. The rules are the server's. */
export const useHere = defineStore('here', () => {
  const found = ref<Schemas['RecognisedView'] | null>(null)
  const cameras = useCameras()
  const live = useLive()
  let turn = 0

  async function look() {
    const mine = ++turn
    const present = (await camerasHere()).map(({ source, label, most_width, most_height }) => ({
      source,
      label,
      most_width,
      most_height,
    }))
    if (!present.some((one) => one.label)) return // not allowed yet: nothing can be told
    const next = await answer(api.POST('/api/kits/here', { body: { cameras: present } })).catch(() => null)
    if (!next) return
    if (mine === turn) found.value = next
    for (const device of live.kit?.devices ?? []) {
      const source = next.sources[device.id]
      if (source && next.moved.includes(device.id)) void cameras.bring({ ...device, source })
    }
  }

  return { found, look }
})
