const FOCUSABLE =
  'button:not([disabled]), a[href], input:not([disabled]), select:not([disabled]), textarea, [tabindex]'
const DIALOG = '.ant-modal-wrap, .ant-dropdown, .ant-popover'

interface Stood {
  parent: HTMLElement
  at: number
}

function seen(element: HTMLElement): boolean {
  return element.isConnected && element.getClientRects().length > 0
}
function first(within: Element | null | undefined): HTMLElement | null {
  if (!(within instanceof HTMLElement)) return null
  if (within.matches(FOCUSABLE) && seen(within)) return within
  return [...within.querySelectorAll<HTMLElement>(FOCUSABLE)].find(seen) ?? null
}

/** Put the focus on something new, unless the teacher has gone elsewhere meanwhile to type. */
export function focusOn(selector: string) {
  const typing = document.activeElement?.closest('input, textarea, select')
  if (!typing) document.querySelector<HTMLElement>(selector)?.focus()
}

const frame = () => new Promise((resolve) => requestAnimationFrame(resolve))
const dialogShown = () =>
  [...document.querySelectorAll<HTMLElement>('.ant-modal-wrap')].some((one) => one.checkVisibility())

/** Until no dialog is there any more and the last one has given the focus back: on a slow computer that takes its time. */
export async function dialogsGone() {
  do await frame()
  while (dialogShown())
  await frame()
}

/**
 * Where the focus goes when what had it is gone: to what stands in its place, as near as it can be; after a dialog to what opened
 * it. Nobody who works by keyboard starts again at the top of the page.
 */
export function keepFocus(root: HTMLElement = document.body) {
  let element: HTMLElement | null = null
  let stood: Stood[] = []
  let outside: { element: HTMLElement; stood: Stood[] } | null = null

  function remember(event: FocusEvent) {
    const target = event.target as HTMLElement
    if (target === root) return
    element = target
    stood = []
    for (let one: HTMLElement = target; one.parentElement && one !== root; one = one.parentElement)
      stood.push({ parent: one.parentElement, at: [...one.parentElement.children].indexOf(one) })
    if (!target.closest(DIALOG)) outside = { element, stood }
  }
  function lost() {
    const active = document.activeElement
    if ((active && active !== root) || !element || seen(element)) return
    if (outside && seen(outside.element)) return outside.element.focus()
    for (const { parent, at } of outside?.stood ?? stood) {
      if (!seen(parent)) continue
      const next = first(parent.children[at]) ?? first(parent.children[at - 1]) ?? first(parent)
      if (next) return next.focus()
    }
  }
  root.addEventListener('focusin', remember)
  const observer = new MutationObserver(lost)
  observer.observe(root, {
    childList: true,
    subtree: true,
    attributes: true,
    attributeFilter: ['style', 'class'],
  })
  return () => {
    observer.disconnect()
    root.removeEventListener('focusin', remember)
  }
}
