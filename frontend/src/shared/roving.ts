import type { Directive } from 'vue'

const ITEMS = 'button, a[href], [role="button"], [role="switch"]'
const STEPS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }

function items(group: HTMLElement): HTMLElement[] {
  return [...group.querySelectorAll<HTMLElement>(ITEMS)].filter(
    (one) => !(one as HTMLButtonElement).disabled && one.offsetParent !== null,
  )
}

/** One of a group's items is its Tab stop: the one that had the focus last, else the one that is on, else the first. */
function settle(group: HTMLElement, current?: HTMLElement) {
  const all = items(group)
  const stop =
    current ??
    all.find((one) => one === document.activeElement) ??
    all.find((one) => one.tabIndex === 0 && one.dataset.stop) ??
    all.find((one) => one.getAttribute('aria-pressed') === 'true' || one.classList.contains('on')) ??
    all[0]
  for (const one of all) {
    const tabIndex = one === stop ? 0 : -1
    if (one.tabIndex !== tabIndex) one.tabIndex = tabIndex
    if (one === stop) one.dataset.stop = 'true'
    else delete one.dataset.stop
  }
}

function walk(group: HTMLElement, event: KeyboardEvent) {
  const target = (event.target as HTMLElement).closest<HTMLElement>(ITEMS)
  const all = items(group)
  const at = target ? all.indexOf(target) : -1
  if (at < 0 || event.ctrlKey || event.metaKey || event.altKey || event.shiftKey) return
  const step = STEPS[event.key]
  const to =
    event.key === 'Home'
      ? 0
      : event.key === 'End'
        ? all.length - 1
        : step && (at + step + all.length) % all.length
  if (to === undefined) return
  event.preventDefault()
  event.stopPropagation()
  all[to]?.focus()
}

const observers = new WeakMap<HTMLElement, MutationObserver>()

/** A group is one Tab stop, and arrows, Home and End move inside it (WAI-ARIA Authoring Practices, roving tabindex). */
export const vRoving: Directive<HTMLElement> = {
  mounted(group) {
    group.addEventListener('keydown', (event) => walk(group, event))
    group.addEventListener('focusin', (event) => {
      const item = (event.target as HTMLElement).closest<HTMLElement>(ITEMS)
      if (item) settle(group, item)
    })
    const observer = new MutationObserver(() => settle(group))
    observer.observe(group, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ['disabled'],
    })
    observers.set(group, observer)
    settle(group)
  },
  unmounted(group) {
    observers.get(group)?.disconnect()
  },
}

let groups = 0

/** The radios of one choice are one Tab stop, as the browser does it for radios of one name. */
export const vRadios: Directive<HTMLElement> = {
  mounted(choice) {
    const name = `choice-${++groups}`
    for (const one of choice.querySelectorAll<HTMLInputElement>('input[type="radio"]')) one.name ||= name
  },
}
