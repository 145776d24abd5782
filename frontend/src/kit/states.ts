import type { Device, FeedView, Schemas } from '@/api/client'
import type { CameraStatus } from './cameras'

export interface DeviceSays {
  kind: 'holds' | 'look' | 'wrong' | 'unknown'
  word: string
  sentence: string | null
  press?: boolean // bringing it back may help
}

const TROUBLE_WORDS = {
  denied: 'Not allowed',
  none: 'Not found',
  busy: 'Busy',
  gone: 'Gone',
  elsewhere: 'In another tab',
  unsupported: 'Not here',
  unchosen: 'Not chosen',
}

const LOST: Record<Device['kind'], string> = {
  bench: 'No picture is coming. Check its cable, then bring it back.',
  camera: 'No picture is coming. Check its cable, then bring it back.',
  guest: 'Not connected. Open its page on the phone, or invite it again.',
  window: 'The window is closed or not chosen yet.',
  pages: 'The file of this page is damaged or gone. Remove it and add it again.',
  slides: 'The file of this page is damaged or gone. Remove it and add it again.',
  clip: 'The file of this clip is damaged or gone. Remove it and add it again.',
  stream: 'The stream does not answer. Cartouche tries again by itself.',
}
const BACK = new Set<Device['kind']>(['bench', 'camera'])

/** One word and, where something is to be done, one sentence for a device. */
export function deviceSays(
  device: Device,
  feed: FeedView | undefined,
  camera: CameraStatus | undefined,
  guest?: Schemas['GuestView'],
): DeviceSays {
  if (device.kind === 'guest') {
    if (!guest)
      return { kind: 'look', word: 'Not invited', sentence: 'No phone has come by an invitation yet.' }
    if (guest.left) return { kind: 'look', word: 'Left', sentence: 'It has left the lesson.' }
  }
  if (camera?.phase === 'asking' || feed?.state === 'waiting') return waiting(device)
  const fromOtherTab = camera?.trouble === 'elsewhere' && feed?.state === 'live'
  if (camera?.phase === 'trouble' && !fromOtherTab) {
    const away = camera.trouble === 'unchosen' ? 'look' : 'wrong'
    return { kind: away, word: TROUBLE_WORDS[camera.trouble ?? 'gone'], sentence: camera.sentence ?? null }
  }
  const press = BACK.has(device.kind)
  switch (feed?.state) {
    case 'live':
      return live(feed, fromOtherTab ? camera?.sentence : null)
    case 'starting':
      return { kind: 'look', word: 'Starting', sentence: starting(feed) }
    case 'asleep':
      return {
        kind: 'wrong',
        word: 'Asleep',
        sentence: feed.sentence ?? 'It is connected but sends no picture. Wake it, or bring it back.',
        press,
      }
    case 'black':
      return {
        kind: 'wrong',
        word: 'Black',
        sentence: 'Its picture is black. Take off the lens cap, give it light, or bring it back.',
        press,
      }
    case 'stuck':
      return {
        kind: 'wrong',
        word: 'Stuck',
        sentence: 'Its picture is frozen. Bring it back.',
        press,
      }
    case 'blurred':
      return {
        kind: 'look',
        word: 'Out of focus',
        sentence: 'Refocus, or move it back a little.',
      }
    case 'lost':
      return { kind: 'wrong', word: 'Lost', sentence: feed.sentence ?? LOST[device.kind], press }
    default:
      return { kind: 'unknown', word: 'Off', sentence: null }
  }
}

function waiting(device: Device): DeviceSays {
  const where = device.kind === 'guest' ? 'The phone’s browser' : 'The browser'
  const what =
    device.kind === 'window'
      ? 'which window to show: choose it.'
      : 'whether Cartouche may use the camera: allow it.'
  return { kind: 'look', word: 'Asking', sentence: `${where} asks ${what}` }
}

function live(feed: FeedView, elsewhere: string | null | undefined): DeviceSays {
  if (feed.advice)
    return { kind: 'look', word: feed.press === 'other lens' ? 'Wrong lens' : 'Live', sentence: feed.advice }
  return { kind: 'holds', word: 'Live', sentence: elsewhere ?? feed.sentence }
}

function starting(feed: FeedView): string {
  if (!feed.usual_start_s) return 'Warming up. A document camera can take up to a minute.'
  return `Warming up, usually about ${Math.max(1, Math.round(feed.usual_start_s))} s.`
}
