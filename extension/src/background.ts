import { keepSite, kept } from './shared'

/** Where the teacher has chosen a site, its pages get the camera; nowhere else is anything put into a page. */
async function settle() {
  const { sites } = await kept()
  const wanted = Object.keys(sites)
  const known = await chrome.scripting.getRegisteredContentScripts()
  await chrome.scripting.unregisterContentScripts({
    ids: known.map((one) => one.id),
  })
  if (!wanted.length) return
  const common = {
    matches: wanted.map((site) => `${site}/*`),
    allFrames: true,
    matchOriginAsFallback: true,
    runAt: 'document_start' as const,
  }
  await chrome.scripting.registerContentScripts([
    { ...common, id: 'page', js: ['page.js'], world: 'MAIN' },
    { ...common, id: 'bridge', js: ['bridge.js'] },
  ])
}

let settling = Promise.resolve()
const settleSoon = () => (settling = settling.then(settle).catch((error: unknown) => console.warn(error)))

/** A page that is open already gets it at once; its next load gets it by itself. */
async function intoTab(tabId: number) {
  const target = { tabId, allFrames: true }
  await chrome.scripting.executeScript({
    target,
    files: ['page.js'],
    world: 'MAIN',
  })
  await chrome.scripting.executeScript({ target, files: ['bridge.js'] })
}

chrome.runtime.onInstalled.addListener(() => void settleSoon())
chrome.runtime.onStartup.addListener(() => void settleSoon())
chrome.storage.onChanged.addListener((changes) => changes.sites && void settleSoon())

type Asked = { choose: string; tabId: number | undefined } | { leave: string } | { here: string }
chrome.runtime.onMessage.addListener((message: Asked, sender, answer: (done: boolean) => void) => {
  void (async () => {
    if ('here' in message) {
      const tabId = sender.tab?.id
      if (tabId !== undefined) await chrome.action.setBadgeText({ tabId, text: 'on' })
    } else if ('choose' in message) {
      const { sites } = await kept()
      await keepSite(message.choose, sites[message.choose] ?? { permission: 'unasked' })
      await settleSoon()
      if (message.tabId !== undefined && !sites[message.choose]) await intoTab(message.tabId)
    } else {
      await keepSite(message.leave, null)
      await settleSoon()
    }
    answer(true)
  })().catch(() => answer(false))
  return true
})
