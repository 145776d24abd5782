import { reconnecting, socketUrl } from '@/shared/reconnecting'

const WAITING_MOST = 2000 // movements: half a minute of drawing

/** The line of a hand that draws. A stroke that is begun before it stands waits for it. first: said at each beginning. */
export function handLine(path: string, say: (sentence: string) => void, first?: () => string) {
  const waiting: string[] = []
  const line = reconnecting(
    () => socketUrl(path),
    (socket) => {
      if (first) socket.send(first())
      waiting.splice(0).forEach((said) => socket.send(said))
    },
    (data) => say((JSON.parse(data as string) as { says: string }).says),
    (final) => final && say(final),
  )
  function send(said: object) {
    const text = JSON.stringify(said)
    const socket = line.socket()
    if (socket) socket.send(text)
    else if (waiting.length < WAITING_MOST) waiting.push(text)
  }
  return { send, close: line.close }
}
