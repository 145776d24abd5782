import { at } from './at'
const FIRST_WAIT_MS = 250
const LONGEST_WAIT_MS = 3000
const FINAL = new Set([1003, 1008, 4404, 4409]) // the server's own word: trying again would change nothing

export interface Reconnecting {
  socket: () => WebSocket | null
  close: () => void
}

/** A socket that comes back by itself, slower each time, until closed or told a final word. */
export function reconnecting(
  url: () => string,
  onOpen: (socket: WebSocket) => void,
  onMessage: (data: string | ArrayBuffer) => void,
  onDown: (final: string | null) => void = () => {},
): Reconnecting {
  let socket: WebSocket | null = null
  let wait = FIRST_WAIT_MS
  let timer = 0
  let closed = false

  function open() {
    const mine = new WebSocket(url())
    mine.binaryType = 'arraybuffer'
    socket = mine
    mine.onopen = () => {
      wait = FIRST_WAIT_MS
      onOpen(mine)
    }
    mine.onmessage = (event) => onMessage(event.data)
    mine.onclose = (event) => {
      if (closed || socket !== mine) return
      socket = null
      const final = FINAL.has(event.code) ? event.reason || 'This connection was refused.' : null
      onDown(final)
      if (final === null) {
        timer = window.setTimeout(open, wait)
        wait = Math.min(wait * 2, LONGEST_WAIT_MS)
      }
    }
  }
  open()
  return {
    socket: () => (socket?.readyState === WebSocket.OPEN ? socket : null),
    close() {
      closed = true
      window.clearTimeout(timer)
      socket?.close()
    },
  }
}

export function socketUrl(path: string): string {
  return `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}${at(path)}`
}
