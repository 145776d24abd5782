import type { WatchSource } from 'vue'
import { Commands } from '@/shared/commands'
import { useFetched } from '@/shared/fetched'
import { useSentences } from '@/shared/sentences'

interface Changing<T> {
  /** What decides the answer, null for nothing to look at. */
  signature: () => string | null
  news: WatchSource<unknown>
  look: () => Promise<T>
  /** Shows a look's answer, and a command's where `answered` is not given. */
  take: (answer: T) => void
  answered?: (answer: T) => void
  /** Also after commands that went well: what they answer is not the whole of it. */
  looksAfter?: boolean
}

/**
 * What a screen shows and changes: it changes at once on the screen, is sent in order and looked at again where it was refused.
 * What was looked for before a change tells nothing once there is one.
 */
export function useChanging<T>(of: Changing<T>) {
  const sentences = useSentences()
  const answered = of.answered ?? of.take
  const commands: Commands<T> = new Commands(
    (next) => {
      looked.outdate()
      answered(next)
    },
    (failed) => (failed || of.looksAfter) && void looked.again(),
  )
  const looked = useFetched<T>(
    of.signature,
    of.news,
    async () => (commands.busy ? undefined : await of.look()),
    (next) => !commands.busy && of.take(next),
  )
  const attempt = (run: () => Promise<T>) => () => sentences.attempt(run)
  return {
    again: looked.again,
    press(run: () => Promise<T>) {
      looked.outdate()
      return commands.press(attempt(run))
    },
    /** Positions of one drag take each other's place while they wait. settled: the hand lets go here. */
    drag(name: string, settled: boolean, run: () => Promise<T>) {
      looked.outdate()
      return commands.drag(name, settled, attempt(run))
    },
    close: () => commands.close(),
  }
}
