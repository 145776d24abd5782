import { FIRST, type FromFrame, HELLO, kept, type LineState, type ToFrame, type Want } from './shared'

/** The extension's own frame in a call page: the one place that reaches Cartouche. Serves a site that the teacher chose, and no other. */
const RETRY_MS = 500
const HEADER_BYTES = 16
const PICTURE = 1
const CLOCK = 3
const JPEG = 4
const NOT_PAIRED = 4401
const site = location.ancestorOrigins[0] ?? ''
let port: MessagePort | null = null
let socket: WebSocket | null = null
let want: Want | null = null
let offset: number | null = null // from Cartouche's clock to this computer's, ms
let retry = 0

const tell = (message: FromFrame, transfer: Transferable[] = []) => port?.postMessage(message, transfer)
const state = (now: LineState) => tell({ tell: 'state', state: now })

window.addEventListener('message', (event) => {
  if (event.data !== HELLO || !event.ports[0] || event.source !== window.parent) return
  end()
  port = event.ports[0]
  port.onmessage = ({ data }: MessageEvent<ToFrame>) => hear(data)
})

function hear(message: ToFrame) {
  if (message.do === 'want') {
    want = message.want
    if (socket?.readyState === WebSocket.OPEN) send({ do: 'want', want })
    else void connect()
  } else send(message)
}

function send(message: object) {
  if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message))
}

function end() {
  window.clearTimeout(retry)
  socket?.close()
  socket = null
  port?.close()
  port = null
}

async function connect() {
  window.clearTimeout(retry)
  const { address, key, sites } = await kept()
  if (!port || !want || socket) return
  if (sites[site]?.permission !== 'allowed') return again('refused')
  if (!key) return again('unpaired')
  const opened = new WebSocket(`${(address || FIRST.address).replace(/^http/, 'ws')}/api/extension/outgoing`)
  socket = opened
  opened.binaryType = 'arraybuffer'
  opened.onopen = () => opened.send(JSON.stringify({ key, site, ...want }))
  opened.onmessage = ({ data }: MessageEvent<ArrayBuffer>) => take(data)
  opened.onclose = ({ code }) => {
    if (socket !== opened) return
    socket = null
    again(code === NOT_PAIRED ? 'unpaired' : 'absent')
  }
}

function again(why: LineState) {
  state(why)
  offset = null
  retry = window.setTimeout(() => void connect(), RETRY_MS)
}

function take(message: ArrayBuffer) {
  const header = new DataView(message)
  const captured = header.getFloat64(8, true) * 1000
  if (header.getUint8(0) === CLOCK) {
    offset = Date.now() - captured
    return
  }
  if (offset === null) return
  const data = message.slice(HEADER_BYTES)
  if (header.getUint8(0) === PICTURE)
    tell(
      {
        tell: 'picture',
        key: header.getUint8(1) === 1,
        captured: captured + offset,
        data,
      },
      [data],
    )
  else if (header.getUint8(0) === JPEG) tell({ tell: 'jpeg', captured: captured + offset, data }, [data])
  else tell({ tell: 'sound', captured: captured + offset, data }, [data])
}

chrome.storage.onChanged.addListener(() => {
  void kept().then(({ sites, key }) => {
    if (socket && (sites[site]?.permission !== 'allowed' || !key)) socket.close()
  })
})
window.addEventListener('pagehide', end)
