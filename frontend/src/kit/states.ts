import type { Device, FeedView } from '@/api/client'
import type { CameraStatus } from './cameras'

export interface DeviceSays {
  kind: 'holds' | 'look' | 'wrong' | 'unknown'
  word: string
  sentence: string | null
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
    case 'lost':
      return {
        kind: 'wrong',
        word: 'Lost',
        sentence:
          feed.sentence ??
          (device.kind === 'camera'
            ? 'No picture comes any more. Check its cable.'
            : 'No picture comes any more.'),
      }
    default:
      return { kind: 'unknown', word: 'Off', sentence: null }
  }
}
