import { useIntervalFn } from '@vueuse/core'
import { onScopeDispose, ref, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'
import {
  camerasHere,
  openCamera,
  release,
  troubleOf,
  type CameraHere,
  type CameraTrouble,
} from '@/kit/capture'
import { at } from '@/shared/at'

export interface Offered extends CameraHere {
  stream: MediaStream | null
  trouble: CameraTrouble | null
}
export type Proposal = Schemas['ProposalView']

const LOOK_EVERY_MS = 1200
const SEEN_PX = 960
const QUALITY = 0.8

/** The cameras that this browser has, open and moving, and what the server proposes of them. Nothing goes out, nothing is kept. */
export function useOffered() {
  const cameras = ref<Offered[]>([])
  const trouble = ref<CameraTrouble | null>(null)
  const asking = ref(false)
  const proposal = shallowRef<Proposal | null>(null)
  const tab = [...crypto.getRandomValues(new Uint8Array(8))]
    .map((value) => (value % 36).toString(36))
    .join('')
  let turn = 0
  let looking = false

  async function open() {
    close()
    const mine = turn
    asking.value = true
    trouble.value = null
    try {
      release(await openCamera()) // names are told after permission only
      const opened = await Promise.all((await camerasHere()).map(preview))
      if (mine !== turn) return opened.forEach((one) => release(one.stream))
      cameras.value = opened
      if (!opened.length) trouble.value = 'none'
      else void look()
    } catch (error) {
      if (mine === turn) trouble.value = troubleOf(error)
    } finally {
      if (mine === turn) asking.value = false
    }
  }
  async function preview(camera: CameraHere): Promise<Offered> {
    try {
      return { ...camera, stream: await openCamera(camera.source), trouble: null }
    } catch (error) {
      return { ...camera, stream: null, trouble: troubleOf(error) }
    }
  }
  function close() {
    turn++
    cameras.value.forEach((one) => release(one.stream))
    cameras.value = []
    proposal.value = null
  }
  /** Its stream goes on, in other hands. */
  function handOver(camera: Offered): MediaStream | undefined {
    const stream = camera.stream ?? undefined
    camera.stream = null
    return stream
  }

  async function look() {
    if (looking) return
    looking = true
    try {
      for (const [number, camera] of cameras.value.entries()) {
        const picture = camera.stream && (await pictureOf(camera.stream))
        if (picture) await tell(number, picture)
      }
    } finally {
      looking = false
    }
  }
  async function tell(number: number, picture: Blob) {
    const answered = await fetch(at(`/api/first/${tab}/cameras/${number}`), {
      method: 'POST',
      headers: { 'Content-Type': 'image/jpeg' },
      body: picture,
    }).catch(() => null)
    if (answered?.ok) proposal.value = (await answered.json()) as Proposal
  }
  useIntervalFn(() => void look(), LOOK_EVERY_MS)
  onScopeDispose(close)

  return { cameras, trouble, asking, proposal, open, close, handOver }
}

/** One picture of a stream, as JPEG; null while it gives none. */
async function pictureOf(stream: MediaStream): Promise<Blob | null> {
  const video = document.createElement('video')
  video.muted = true
  video.srcObject = stream
  try {
    await video.play()
    const { videoWidth: width, videoHeight: height } = video
    if (!width || !height) return null
    const scale = Math.min(1, SEEN_PX / width)
    const canvas = new OffscreenCanvas(Math.round(width * scale), Math.round(height * scale))
    canvas.getContext('2d')?.drawImage(video, 0, 0, canvas.width, canvas.height)
    return await canvas.convertToBlob({ type: 'image/jpeg', quality: QUALITY })
  } catch {
    return null
  } finally {
    video.srcObject = null
  }
}
