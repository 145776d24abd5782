import { defineStore } from 'pinia'
import { reactive } from 'vue'
import { api, type Device } from '@/api/client'
import { SoundSender } from '@/sound/sender'
import { sendCamera, type CameraSender } from '@/shared/cameraSender'
import {
  TROUBLES,
  openCamera,
  openWindow,
  release,
  sizeConstraints,
  troubleOfKnown,
  type CameraTrouble,
} from './capture'

const AGAIN_MS = 5000 // another program says nothing when it lets go of a camera

export interface CameraStatus {
  phase: 'asking' | 'sending' | 'trouble'
  trouble?: CameraTrouble
  sentence?: string
}

/** The cameras and windows of this computer that this tab sends, by device id. They go on while screens change. */
export const useCameras = defineStore('cameras', () => {
  const status = reactive(new Map<string, CameraStatus>())
  const open = new Map<string, { stream: MediaStream; publisher: CameraSender }>()
  const turns = new Map<string, number>()
  const turnOf = (deviceId: string) => turns.get(deviceId) ?? 0
  let told: Promise<unknown> = Promise.resolve()

  function fail(deviceId: string, trouble: CameraTrouble, sentence = TROUBLES[trouble].sentence) {
    letGo(deviceId)
    status.set(deviceId, { phase: 'trouble', trouble, sentence })
  }

  function letGo(deviceId: string) {
    turns.set(deviceId, turnOf(deviceId) + 1)
    const known = open.get(deviceId)
    open.delete(deviceId)
    known?.publisher.close()
    release(known?.stream)
    status.delete(deviceId)
  }

  function letAllGo() {
    for (const deviceId of [...open.keys()]) letGo(deviceId)
  }

  /** Other screens say "waiting" too while the browser asks. One after the other: the last word counts. */
  function tellAsking(deviceId: string, asking: boolean) {
    const path = { device_id: deviceId }
    told = told
      .then(() => api.PUT('/api/kit/devices/{device_id}/asking', { params: { path }, body: { asking } }))
      .catch(() => {})
  }

  /** Open it and send it. Each call takes the place of an earlier one that is still waiting for the browser. */
  async function bring(device: Device, stream?: MediaStream) {
    letGo(device.id)
    const mine = turnOf(device.id)
    status.set(device.id, { phase: 'asking' })
    if (!stream) tellAsking(device.id, true)
    try {
      const opened = stream ?? (await opening(device))
      if (mine !== turnOf(device.id)) return release(opened)
      publish(device, opened)
    } catch (error) {
      const trouble = await troubleOfKnown(error)
      if (mine !== turnOf(device.id)) return
      fail(device.id, device.kind === 'window' && trouble === 'denied' ? 'unchosen' : trouble)
      if (trouble === 'busy') againLater(device)
    } finally {
      if (!stream) tellAsking(device.id, false)
    }
  }

  /** Tried until it is free; what is said of it stays meanwhile. */
  function againLater(device: Device) {
    if (device.kind !== 'camera') return
    const mine = turnOf(device.id)
    window.setTimeout(async () => {
      if (mine !== turnOf(device.id)) return
      const opened = await opening(device).catch(() => null)
      if (mine !== turnOf(device.id)) return release(opened)
      if (opened) await bring(device, opened)
      else againLater(device)
    }, AGAIN_MS)
  }

  function opening(device: Device): Promise<MediaStream> {
    if (device.kind === 'window') return openWindow(device.source === 'monitor')
    return openCamera(device.source, device)
  }

  function publish(device: Device, stream: MediaStream) {
    const track = stream.getVideoTracks()[0] as MediaStreamTrack
    track.onended = () => fail(device.id, device.kind === 'window' ? 'unchosen' : 'gone')
    const publisher = sendCamera(track, {
      path: `/api/cameras/${encodeURIComponent(device.id)}`,
      prefers: device.serves === 'face' ? 'smooth' : 'sharp',
      onDown: (final) => final && fail(device.id, 'elsewhere', final),
      onBroken: (sentence) => {
        fail(device.id, 'busy', sentence)
        againLater(device)
      },
    })
    if (device.kind === 'window') sound(device, stream)
    open.set(device.id, { stream, publisher })
    status.set(device.id, { phase: 'sending' })
  }

  /** What a shared tab plays stands among the microphones: closed until it is opened there. */
  function sound(device: Device, stream: MediaStream) {
    const [track] = stream.getAudioTracks()
    if (!track) return
    const line = { path: `/api/sound/${device.id}?kind=window&label=${encodeURIComponent(device.name)}` }
    const sender = new SoundSender(device.id, device.name, new MediaStream([track]), () => {}, line)
    void sender.start().catch(() => sender.stop())
  }

  /** A window is chosen by the teacher alone: it is not brought by itself. */
  function awaitChoice(deviceId: string) {
    if (!status.has(deviceId)) fail(deviceId, 'unchosen')
  }

  async function resize(device: Device) {
    const track = trackOf(device.id)
    if (!track || !device.width || !device.height) return
    const now = track.getSettings()
    if (now.width === device.width && now.height === device.height) return
    await track.applyConstraints(sizeConstraints(device)).catch(() => {})
  }

  const trackOf = (deviceId: string) => open.get(deviceId)?.stream.getVideoTracks()[0] ?? null

  return { status, bring, letGo, letAllGo, awaitChoice, resize, trackOf }
})
