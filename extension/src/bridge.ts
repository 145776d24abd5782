import { type FromBridge, HELLO, kept, type Permission, type ToBridge } from './shared'

/** Beside the page, out of its reach: asks the teacher once, and opens the frame that holds the line to Cartouche. */
const LOST_MS = 1000 // then a frame that the page took away is there again
const origin = self.origin
let port: MessagePort | null = null
let frame: HTMLIFrameElement | null = null
let watching = 0
let question: HTMLIFrameElement | null = null

const tell = (message: FromBridge, ports: Transferable[] = []) => port?.postMessage(message, ports)

function place(page: string, style: string): HTMLIFrameElement {
  const host = document.createElement('div')
  host.style.cssText =
    'display: block; position: fixed; z-index: 2147483647; top: 0; left: 0; width: 0; height: 0'
  const made = document.createElement('iframe')
  Object.assign(made, { credentialless: window.crossOriginIsolated })
  made.style.cssText = style
  made.src = chrome.runtime.getURL(page)
  host.attachShadow({ mode: 'closed' }).append(made)
  ;(document.documentElement ?? document).append(host)
  made.addEventListener('remove', () => host.remove())
  return made
}

const shut = (one: HTMLIFrameElement | null) => one?.dispatchEvent(new Event('remove'))

function close() {
  window.clearInterval(watching)
  shut(frame)
  frame = null
}

function open(number: number) {
  close()
  frame = place('frame.html', 'display: none')
  frame.addEventListener('load', () => {
    const { port1, port2 } = new MessageChannel()
    frame?.contentWindow?.postMessage(HELLO, chrome.runtime.getURL('').slice(0, -1), [port2])
    tell({ tell: 'line', number }, [port1])
  })
  watching = window.setInterval(() => !frame?.isConnected && open(number), LOST_MS) // a page may write itself anew
}

function hear(message: ToBridge) {
  if (message.do === 'ask') ask()
  else if (message.do === 'line') open(message.number)
  else close()
}

function ask() {
  if (question) return
  question = place(
    `ask.html#${encodeURIComponent(origin)}`,
    'position: fixed; top: 12px; left: max(12px, calc(50vw - 230px)); width: min(460px, calc(100vw - 24px)); height: 148px; border: 0; color-scheme: light',
  )
}

async function settle() {
  const { sites } = await kept()
  const permission: Permission = sites[origin]?.permission ?? 'denied'
  if (permission !== 'unasked') {
    shut(question)
    question = null
  }
  tell({ tell: 'permission', permission })
}

function offer() {
  const { port1, port2 } = new MessageChannel()
  port = port1
  port.onmessage = ({ data }: MessageEvent<ToBridge>) => hear(data)
  window.postMessage(HELLO, '*', [port2])
  void settle()
}

window.addEventListener('message', (event) => {
  if (event.source === window && event.data === `${HELLO}?` && !port) offer()
})
chrome.storage.onChanged.addListener(() => void settle())
offer()
void chrome.runtime.sendMessage({ here: origin }).catch(() => {})
