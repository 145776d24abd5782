import { api, answer, type Device } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { useCameras } from './cameras'

/** What brings a device back or right, by one press, wherever that press stands. */
export function useMends() {
  const live = useLive()
  const cameras = useCameras()
  const sentences = useSentences()
  const path = (device: Device) => ({ device_id: device.id })

  const mendBench = (device: Device) =>
    sentences.attempt(() =>
      answer(
        api.PUT('/api/kit/devices/{device_id}/fault', {
          params: { path: path(device) },
          body: { fault: null },
        }),
      ),
    )
  async function bringBack(device: Device) {
    if (device.kind === 'bench') await mendBench(device)
    else if (device.kind === 'camera' || device.kind === 'window') await cameras.bring(device)
    else if (device.kind === 'guest') {
      await sentences.attempt(() =>
        answer(api.POST('/api/guests/{device_id}/wait', { params: { path: path(device) } })),
      )
      sentences.say(`Waiting for “${device.name}”: open its page on the phone again.`)
    } else sentences.say('Cartouche tries again by itself. If it stays away, remove it and add it again.')
  }
  async function otherLens(device: Device) {
    if (device.kind === 'bench') return mendBench(device)
    const rear = live.kit?.guests[device.id]?.lenses.find((one) => one.facing === 'rear')
    if (!rear) return sentences.say('Choose the rear lens on the phone itself.')
    await sentences.attempt(() =>
      answer(
        api.PUT('/api/guests/{device_id}/controls', {
          params: { path: path(device) },
          body: { lens: rear.id, settings: {}, refocus: false },
        }),
      ),
    )
  }
  return { bringBack, otherLens }
}
