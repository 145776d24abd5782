import { kept } from './shared'

/** Behind the icon: this site and no other, and being paired with Cartouche once. */
const POLL_MS = 700
const page = <Kind extends HTMLElement = HTMLElement>(id: string) => document.getElementById(id) as Kind
const asked = new URLSearchParams(location.search).get('tab')
let tab: { id?: number; url?: string } = {}
let pairing: { secret: string } | null = null

async function origin(): Promise<string> {
  const id = Number(asked)
  tab = id
    ? await chrome.tabs.get(id)
    : ((await chrome.tabs.query({ active: true, lastFocusedWindow: true }))[0] ?? {})
  const url = tab.url ? new URL(tab.url) : null
  return url && /^https?:$/.test(url.protocol) ? url.origin : ''
}

async function show() {
  const [{ sites, key, address }, here] = await Promise.all([kept(), origin()])
  const site = sites[here]
  page('here').textContent = here.replace(/^https?:\/\//, '') || 'This page cannot take a camera'
  page('says').textContent = !here
    ? ''
    : !site
      ? 'This site does not see Cartouche.'
      : site.permission === 'denied'
        ? 'Cartouche is listed here, and you have said no to this site.'
        : 'This site lists Cartouche among its cameras and microphones.'
  page('choose').hidden = !here || (!!site && site.permission !== 'denied')
  page('choose').textContent = site ? 'Ask me again' : 'Offer Cartouche on this site'
  page('leave').hidden = !site
  page('paired').textContent = key
    ? 'Paired with Cartouche on this computer.'
    : 'Not paired with Cartouche yet.'
  page('pair').hidden = !!pairing
  page('pair').textContent = key ? 'Pair again' : 'Pair'
  page<HTMLInputElement>('address').value ||= address
  const list = page('sites')
  list.replaceChildren(
    ...Object.keys(sites).map((one) => {
      const item = document.createElement('li')
      const end = document.createElement('button')
      end.textContent = 'Stop'
      end.setAttribute('aria-label', `Stop on ${one}`)
      end.addEventListener('click', () => void chrome.runtime.sendMessage({ leave: one }).then(show))
      item.append(one, end)
      return item
    }),
  )
}

async function choose() {
  const here = await origin()
  const granted = await chrome.permissions.request({ origins: [`${here}/*`] }).catch(() => false)
  if (!granted) return say('The browser did not give leave for this site.')
  const { sites } = await kept()
  if (sites[here])
    await chrome.storage.local.set({
      sites: { ...sites, [here]: { permission: 'unasked' } },
    })
  await chrome.runtime.sendMessage({ choose: here, tabId: tab.id })
  say('Choose Cartouche in the call’s list of cameras. If it is not there, reload the call’s page once.')
  await show()
}

const say = (sentence: string) => (page('note').textContent = sentence)

async function post(
  address: string,
  path: string,
  body: object,
): Promise<{ status: number; answer: Record<string, string> }> {
  const response = await fetch(`${address}${path}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  })
  return {
    status: response.status,
    answer: (await response.json()) as Record<string, string>,
  }
}

/** This computer's own is allowed from the start; a school's server is asked for once. */
async function mayReach(address: string): Promise<boolean> {
  try {
    const { hostname, origin } = new URL(address)
    return hostname === '127.0.0.1' || (await chrome.permissions.request({ origins: [`${origin}/*`] }))
  } catch {
    return false
  }
}

async function pair() {
  const address = page<HTMLInputElement>('address').value.replace(/\/+$/, '')
  if (!(await mayReach(address)))
    return say('That address was not allowed. It is the one that Cartouche has in this browser.')
  try {
    const { status, answer } = await post(address, '/api/extension/pair', {})
    if (status !== 201) return say(answer.detail ?? 'Cartouche refused.')
    await chrome.storage.local.set({ address })
    pairing = { secret: answer.secret! }
    page('code').textContent = answer.code!
    say('Cartouche shows the same code on its Way in screen: press there that it is the same.')
    await show()
    window.setTimeout(() => void collect(address), POLL_MS)
  } catch {
    say('Cartouche does not answer there. Start it on this computer, then press Pair again.')
  }
}

async function collect(address: string) {
  if (!pairing) return
  const { status, answer } = await post(address, '/api/extension/paired', {
    secret: pairing.secret,
  }).catch(() => ({ status: 0, answer: {} as Record<string, string> }))
  if (status === 200 && !answer.key) return void window.setTimeout(() => void collect(address), POLL_MS)
  pairing = null
  page('code').textContent = ''
  if (answer.key) await chrome.storage.local.set({ key: answer.key })
  say(answer.key ? 'Paired.' : 'Not paired: it was refused, or the time ran out. Press Pair again.')
  await show()
}

page('choose').addEventListener('click', () => void choose())
page('leave').addEventListener(
  'click',
  () =>
    void origin()
      .then((here) => chrome.runtime.sendMessage({ leave: here }))
      .then(show),
)
page('pair').addEventListener('click', () => void pair())
void show()
