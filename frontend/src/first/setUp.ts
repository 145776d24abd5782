import { ref } from 'vue'
import { api, answer, type Device } from '@/api/client'
import { useCameras } from '@/kit/cameras'
import { mostOf } from '@/kit/capture'
import { useHere } from '@/kit/here'
import { useSentences } from '@/shared/sentences'
import type { Offered, Proposal } from './offered'

const TRIES = 30
const EVERY_MS = 500

/** From chosen cameras to a squared-up page on a plate, with sensible defaults to be renamed later. */
export function useSetUp() {
  const cameras = useCameras()
  const here = useHere()
  const sentences = useSentences()
  const busy = ref('') // what is being done, for the teacher
  const wayTold = ref<boolean | null>(null)

  async function add(camera: Offered, serves: 'page' | 'face', rig: Proposal['rig'], stream?: MediaStream) {
    const body = {
      kind: 'camera' as const,
      source: camera.source,
      label: camera.label,
      name: serves === 'page' ? 'Page camera' : 'Face',
      rig: serves === 'page' ? rig : ('at-face' as const),
      serves,
      microphone: camera.microphone,
      whole_screen: false,
      ...(stream ? mostOf(stream) : {}),
    }
    const device = await sentences.attempt(() => answer(api.POST('/api/kit/devices', { body })))
    if (device) void cameras.bring(device, stream)
    return device
  }
  /** Found, straightened, turned and flipped, as soon as its first picture is there; true once it is. */
  async function squareUp(device: Pick<Device, 'id'>): Promise<boolean> {
    busy.value = 'Squaring the page up …'
    const path = { device_id: device.id }
    let refused = ''
    try {
      for (let tried = 0; tried < TRIES; tried++) {
        try {
          const found = await answer(api.POST('/api/square-up/{device_id}/find', { params: { path } }))
          wayTold.value = found.way_told ?? null
          return true
        } catch (error) {
          refused = (error as Error).message
        }
        await new Promise((done) => setTimeout(done, EVERY_MS))
      }
      sentences.say(refused)
      return false
    } finally {
      busy.value = ''
    }
  }
  /** Page and face where both are there, else the page alone. */
  async function lay(withFace: boolean) {
    const body = { plate_id: withFace ? 'page-and-face' : 'page', by: 0 }
    await answer(api.PUT('/api/teach/plate', { body })).catch(() => null) // a lesson with plates of its own keeps them
    void here.look()
  }
  return { busy, wayTold, add, squareUp, lay }
}
