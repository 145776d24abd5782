/** Opening what this computer can show: cameras, windows and tabs. */

export type CameraTrouble = 'denied' | 'none' | 'busy' | 'gone' | 'elsewhere' | 'unsupported' | 'unchosen'

/** What to do about each trouble, and the word on the one press that does it. */
export const TROUBLES: Record<CameraTrouble, { sentence: string; press: string }> = {
  denied: {
    sentence:
      'Camera blocked. Click the camera icon by the address and allow it, or check this computer’s privacy settings.',
    press: 'Ask again',
  },
  none: {
    sentence: 'The browser finds no camera on this computer. Plug one in, then look again.',
    press: 'Look again',
  },
  busy: {
    sentence: 'Another program is using this camera. Close it there and the camera comes back by itself.',
    press: 'Try again',
  },
  gone: {
    sentence: 'This camera was unplugged or switched off. Plug it in, then bring it back.',
    press: 'Bring it back',
  },
  elsewhere: {
    sentence: 'This camera is now used by another Cartouche tab.',
    press: 'Use it here',
  },
  unsupported: {
    sentence: 'Cameras do not work at this address. Open Cartouche at the address it printed.',
    press: 'Try again',
  },
  unchosen: {
    sentence: 'Choose this window again; its name and corrections are kept.',
    press: 'Choose it again',
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

/** A camera that is not found where none may be used is not gone: in a profile that has not been asked yet, ids are others. */
export async function troubleOfKnown(error: unknown): Promise<CameraTrouble> {
  const trouble = troubleOf(error)
  if (trouble !== 'gone' && trouble !== 'none') return trouble
  const name = 'camera' as PermissionName
  const permission = await navigator.permissions?.query({ name }).catch(() => null)
  return permission && permission.state !== 'granted' ? 'denied' : trouble
}

export interface WantedSize {
  width?: number | null
  height?: number | null
}
const USUAL = { width: 1280, height: 720 }

export function sizeConstraints(size: WantedSize) {
  return { width: { ideal: size.width ?? USUAL.width }, height: { ideal: size.height ?? USUAL.height } }
}

export async function openCamera(source?: string, size: WantedSize = {}): Promise<MediaStream> {
  if (!navigator.mediaDevices) throw new DOMException('no secure context', 'NotSupportedError')
  const video = {
    ...sizeConstraints(size),
    frameRate: { ideal: 30 },
    ...(source ? { deviceId: { exact: source } } : {}),
  }
  return navigator.mediaDevices.getUserMedia({ video, audio: false })
}

/** The whole screen was chosen where a window was meant: nothing of it is shown until that is said once more. */
export class WholeScreen extends Error {}

/** One window or tab, by the browser's own list; the whole screen only where that was asked for. */
export async function openWindow(wholeScreen = false): Promise<MediaStream> {
  const asked = {
    video: { frameRate: { ideal: 30 }, displaySurface: wholeScreen ? 'monitor' : 'window' },
    audio: true, // where the browser offers it and the teacher ticks it
    monitorTypeSurfaces: wholeScreen ? 'include' : 'exclude',
    selfBrowserSurface: 'exclude',
    surfaceSwitching: 'exclude',
  }
  const stream = await navigator.mediaDevices.getDisplayMedia(asked as DisplayMediaStreamOptions)
  if (surfaceOf(stream) === 'monitor' && !wholeScreen) {
    release(stream)
    throw new WholeScreen()
  }
  return stream
}

export function surfaceOf(stream: MediaStream): 'browser' | 'window' | 'monitor' {
  const surface = stream.getVideoTracks()[0]?.getSettings().displaySurface
  return surface === 'monitor' || surface === 'browser' ? surface : 'window'
}

export function release(stream: MediaStream | null | undefined) {
  stream?.getTracks().forEach((track) => track.stop())
}

export interface CameraHere {
  source: string
  label: string
  microphone: string
  max_width: number | null
  max_height: number | null
}

/** The cameras that this browser sees, each with the microphone in the same housing. Without permission they have no names. */
export async function camerasHere(): Promise<CameraHere[]> {
  const found = (await navigator.mediaDevices?.enumerateDevices()) ?? []
  const sounds = found.filter((one) => one.kind === 'audioinput' && one.deviceId !== 'default')
  return found
    .filter((one) => one.kind === 'videoinput' && one.deviceId !== '')
    .map((one) => ({
      source: one.deviceId,
      label: one.label,
      microphone: sounds.find((sound) => one.groupId && sound.groupId === one.groupId)?.label ?? '',
      ...largest((one as InputDeviceInfo).getCapabilities?.()),
    }))
}

/** The largest size, where the browser tells it: before a camera is open only some do. */
function largest(can?: MediaTrackCapabilities) {
  return { max_width: can?.width?.max ?? null, max_height: can?.height?.max ?? null }
}

export function mostOf(stream: MediaStream) {
  return largest(stream.getVideoTracks()[0]?.getCapabilities?.())
}
