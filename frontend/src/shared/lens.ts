import type { GuestSchemas } from '@/guest/client'

type Report = GuestSchemas['Report']
type Control = keyof NonNullable<Report['settings']>
export type Facing = 'rear' | 'front'
export interface LensInfo {
  id: string
  label: string
  facing: Facing | null
}
export type Spans = NonNullable<Report['spans']>
export type Settings = NonNullable<Report['settings']>
type Trouble = 'denied' | 'busy' | 'none'

const CONTROLS: Control[] = [
  'zoom',
  'focusDistance',
  'exposureCompensation',
  'exposureTime',
  'torch',
  'brightness',
]
const LARGEST = { width: 1920, height: 1080 }

export function troubleOf(error: unknown): Trouble {
  const name = (error as { name?: string } | null)?.name
  if (name === 'NotAllowedError' || name === 'SecurityError') return 'denied'
  return name === 'NotFoundError' || name === 'OverconstrainedError' ? 'none' : 'busy'
}

/** The constraints for a lens: by its id, else the rear one. Zoom is asked for so that the browser offers it. */
export function wanted(
  lens: string | null,
  upright: boolean,
  size: { width: number; height: number } | null,
): MediaStreamConstraints {
  const { width, height } = size ?? LARGEST
  const video = {
    ...(lens ? { deviceId: { exact: lens } } : { facingMode: { ideal: 'environment' } }),
    width: { ideal: upright ? height : width },
    height: { ideal: upright ? width : height },
    frameRate: { ideal: 30 },
    zoom: true,
  }
  return { video: video as MediaTrackConstraints, audio: false }
}

export function facingOf(label: string): Facing | null {
  if (/front|user|face|selfie/i.test(label)) return 'front'
  return /back|rear|environment|world/i.test(label) ? 'rear' : null
}

export async function lenses(): Promise<LensInfo[]> {
  const found = await navigator.mediaDevices.enumerateDevices()
  return found
    .filter((one) => one.kind === 'videoinput')
    .map((one) => ({ id: one.deviceId, label: one.label, facing: facingOf(one.label) }))
}

/** What this lens can be set to, and how it stands. */
export function controlsOf(track: MediaStreamTrack): {
  spans: Spans
  settings: Settings
  canRefocus: boolean
} {
  const can = (track.getCapabilities?.() ?? {}) as Record<string, unknown>
  const now = track.getSettings() as Record<string, unknown>
  const spans: Spans = {}
  const settings: Settings = {}
  for (const name of CONTROLS) {
    const span = can[name]
    if (name === 'torch' && span === true) spans.torch = { min: 0, max: 1, step: 1 }
    else if (typeof span === 'object' && span !== null && 'max' in span) {
      const { min = 0, max = 0, step = 0 } = span as { min?: number; max?: number; step?: number }
      if (max > min) spans[name] = { min, max, step }
    }
    if (spans[name] && now[name] !== undefined) settings[name] = Number(now[name])
  }
  const modes = can.focusMode
  return {
    spans,
    settings,
    canRefocus: Array.isArray(modes) && (modes.includes('single-shot') || modes.includes('continuous')),
  }
}

export async function set(track: MediaStreamTrack, settings: Settings): Promise<void> {
  for (const [name, value] of Object.entries(settings)) {
    const asked: Record<string, unknown> = { [name]: name === 'torch' ? value > 0 : value }
    if (name === 'focusDistance') asked.focusMode = 'manual'
    if (name === 'exposureTime') asked.exposureMode = 'manual'
    if (name === 'exposureCompensation') asked.exposureMode = 'continuous'
    await track.applyConstraints({ advanced: [asked] }).catch(() => {}) // how it stands is told with the next report
  }
}

export async function refocus(track: MediaStreamTrack): Promise<void> {
  const modes = ((track.getCapabilities?.() ?? {}) as { focusMode?: string[] }).focusMode ?? []
  for (const focusMode of ['single-shot', 'continuous'].filter((mode) => modes.includes(mode))) {
    await track.applyConstraints({ advanced: [{ focusMode } as MediaTrackConstraintSet] }).catch(() => {})
  }
}

/** A small picture of what a stream shows now, as a data address. */
export async function snapshot(stream: MediaStream): Promise<string> {
  const video = document.createElement('video')
  video.muted = true
  video.playsInline = true
  video.srcObject = stream
  await video.play()
  await new Promise((next) => setTimeout(next, 350)) // exposure settles
  const canvas = document.createElement('canvas')
  canvas.width = 240
  canvas.height = Math.round((240 * video.videoHeight) / Math.max(1, video.videoWidth))
  canvas.getContext('2d')?.drawImage(video, 0, 0, canvas.width, canvas.height)
  return canvas.toDataURL('image/jpeg', 0.7)
}
