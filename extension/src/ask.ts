import { keepSite, kept } from './shared'

/** The one question in a call page that takes the picture for the first time. */
const site = location.ancestorOrigins[0] ?? ''

async function answer(permission: 'allowed' | 'denied') {
  if ((await kept()).sites[site]) await keepSite(site, { permission })
}
document.querySelector('#site')!.textContent = site.replace(/^https?:\/\//, '')
document
  .querySelector('#yes')!
  .addEventListener('click', (event) => event.isTrusted && void answer('allowed'))
document.querySelector('#no')!.addEventListener('click', (event) => event.isTrusted && void answer('denied'))
document.querySelector<HTMLElement>('#row')!.hidden = false // pressed before it is heard, a press would be lost
