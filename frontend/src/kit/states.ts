import type { Device, FeedView } from '@/api/client'
import type { CameraStatus } from './cameras'

export interface DeviceSays {
  kind: 'holds' | 'look' | 'wrong' | 'unknown'
  word: string
  sentence: string | null
  press?: boolean // bringing it back may help
}

/** One word and, where something is to be done, one sentence for a device. */
export function deviceSays(
  device: Device,
  feed: FeedView | undefined,
  camera: CameraStatus | undefined,
): DeviceSays {
  if (camera?.phase === 'asking') {
    return {
      kind: 'look',
      word: 'Asking',
      sentence: 'The browser asks whether Cartouche may use the camera: allow it.',
    }
  }
  const fromOtherTab = camera?.trouble === 'elsewhere' && feed?.state === 'live'
  if (camera?.phase === 'trouble' && !fromOtherTab) {
    const word = {
      denied: 'Not allowed',
      none: 'Not found',
      busy: 'Busy',
      gone: 'Gone',
      elsewhere: 'In another tab',
      unsupported: 'Not here',
    }
    return { kind: 'wrong', word: word[camera.trouble ?? 'gone'], sentence: camera.sentence ?? null }
  }
  switch (feed?.state) {
    case 'live':
      return {
        kind: 'holds',
        word: 'Live',
        sentence: fromOtherTab ? (camera?.sentence ?? null) : feed.sentence,
      }
    case 'starting':
      return {
        kind: 'look',
        word: 'Starting',
        sentence: 'It warms up; a document camera may take up to twenty seconds.',
      }
    case 'asleep':
      return {
        kind: 'wrong',
        word: 'Asleep',
        sentence: 'It is there but sends no picture: it may have gone to sleep. Wake it, or bring it back.',
        press: true,
      }
    case 'black':
      return {
        kind: 'wrong',
        word: 'Black',
        sentence: 'Its picture is black: take off the lens cap, give it light, or bring it back.',
        press: true,
      }
    case 'stuck':
      return {
        kind: 'wrong',
        word: 'Stuck',
        sentence: 'It sends the same picture again and again. Bring it back.',
        press: true,
      }
    case 'blurred':
      return {
        kind: 'look',
        word: 'Out of focus',
        sentence: 'Refocus it, or move it a little away from the page.',
      }
    case 'lost':
      return {
        kind: 'wrong',
        word: 'Lost',
        sentence: feed.sentence ?? 'No picture comes any more. Check its cable, then bring it back.',
        press: true,
      }
    default:
      return { kind: 'unknown', word: 'Off', sentence: null }
  }
}
