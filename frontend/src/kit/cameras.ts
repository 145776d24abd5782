import { defineStore } from 'pinia'
import { reactive } from 'vue'
import { Publisher } from './publisher'

export type CameraTrouble = 'denied' | 'none' | 'busy' | 'gone' | 'elsewhere' | 'unsupported'

export interface CameraStatus {
  phase: 'asking' | 'sending' | 'trouble'
  trouble?: CameraTrouble
  sentence?: string
}

/** What to do about each trouble, and the word on the one press that does it. */
export const TROUBLES: Record<CameraTrouble, { sentence: string; press: string }> = {
  denied: {
    sentence:
      'The browser was told not to use the camera. Press the camera sign beside the address, allow it, then ask again.',
    press: 'Ask again',
  },
  none: {
    sentence: 'This computer has no camera that the browser can see. Plug one in, then look again.',
    press: 'Look again',
  },
  busy: {
    sentence:
      'Another program holds this camera. Close its picture there (a call, a camera app), then try again.',
    press: 'Try again',
  },
  gone: {
    sentence: 'This camera was pulled out or switched off. Plug it in again, then bring it back.',
    press: 'Bring it back',
  },
  elsewhere: {
    sentence: 'This camera now comes in through another tab of Cartouche.',
    press: 'Bring it here',
  },
  unsupported: {
    sentence:
      'Cameras work only at http://127.0.0.1 or over TLS. Open Cartouche by the address that it printed.',
    press: 'Try again',
  },
}

export function troubleOf(error: unknown): CameraTrouble {
  const name = (error as { name?: string } | null)?.name
  if (name === 'NotAllowedError' || name === 'SecurityError') return 'denied'
  if (name === 'NotFoundError') return 'none'
  if (name === 'OverconstrainedError') return 'gone'
  if (name === 'NotReadableError' || name === 'AbortError') return 'busy'
  return 'unsupported'
}

const WANTED = { width: { ideal: 1280 }, height: { ideal: 720 }, frameRate: { ideal: 30 } }

export async function openCamera(source?: string): Promise<MediaStream> {
  if (!navigator.mediaDevices) throw new DOMException('no secure context', 'NotSupportedError')
  const video = source ? { ...WANTED, deviceId: { exact: source } } : WANTED
  return navigator.mediaDevices.getUserMedia({ video, audio: false })
}

export function release(stream: MediaStream | null | undefined) {
  stream?.getTracks().forEach((track) => track.stop())
}

/** The cameras of this computer that this tab sends, by device id. They go on while screens change. */
export const useCameras = defineStore('cameras', () => {
  const status = reactive(new Map<string, CameraStatus>())
  const open = new Map<string, { stream: MediaStream; publisher: Publisher }>()

  function fail(deviceId: string, trouble: CameraTrouble, sentence = TROUBLES[trouble].sentence) {
    letGo(deviceId)
    status.set(deviceId, { phase: 'trouble', trouble, sentence })
  }

  function letGo(deviceId: string) {
    const known = open.get(deviceId)
    open.delete(deviceId)
    known?.publisher.close()
    release(known?.stream)
    status.delete(deviceId)
  }

  async function bring(deviceId: string, source: string, stream?: MediaStream) {
    letGo(deviceId)
    status.set(deviceId, { phase: 'asking' })
    try {
      const opened = stream ?? (await openCamera(source))
      if (status.get(deviceId)?.phase !== 'asking') return release(opened)
      const track = opened.getVideoTracks()[0] as MediaStreamTrack
      track.onended = () => fail(deviceId, 'gone')
      const publisher = new Publisher(
        deviceId,
        track,
        (final) => final && fail(deviceId, 'elsewhere', final),
        (sentence) => fail(deviceId, 'busy', sentence),
      )
      open.set(deviceId, { stream: opened, publisher })
      status.set(deviceId, { phase: 'sending' })
    } catch (error) {
      fail(deviceId, troubleOf(error))
    }
  }

  return { status, bring, letGo }
})
