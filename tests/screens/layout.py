"""What is wrong with a screen's layout, computed from the DOM: clipped text, overlapping controls, sideways scrolling."""

from playwright.sync_api import Page

# Drawn over each other on purpose: handles on a picture, a slider's own parts, a switch's knob.
_FAULTS = """() => {
  const faults = []
  const name = (e) => `${e.tagName.toLowerCase()}.${[...e.classList].join('.')} "${(e.innerText || e.ariaLabel || '').trim().slice(0, 40)}"`
  const ON_PURPOSE = '.corners, .stage, .ant-slider, .ant-switch, .thumb, .outline, canvas, video, [aria-hidden=true]'
  const shown = (e) => e.checkVisibility({ opacityProperty: true, visibilityProperty: true }) && !e.closest(ON_PURPOSE)
  const area = (box) => box.width > 0 && box.height > 0
  const visibleBox = (e) => {
    let { left, top, right, bottom } = e.getBoundingClientRect()
    for (let up = e.parentElement; up && up !== document.body; up = up.parentElement) {
      const style = getComputedStyle(up)
      if (style.overflowX === 'visible' && style.overflowY === 'visible') continue
      const box = up.getBoundingClientRect()
      left = Math.max(left, box.left); right = Math.min(right, box.right)
      top = Math.max(top, box.top); bottom = Math.min(bottom, box.bottom)
    }
    return { left, top, right, bottom, width: right - left, height: bottom - top }
  }
  const wide = document.documentElement.scrollWidth
  if (wide > innerWidth) faults.push(`the page scrolls sideways: ${wide} px`)

  for (const e of document.body.querySelectorAll('*')) {
    if (!shown(e)) continue
    const style = getComputedStyle(e)
    const cuts = style.overflowX !== 'visible'
    if (cuts && e.scrollWidth > e.clientWidth + 1 && e.clientWidth > 0 && style.display !== 'inline' && !e.matches('select, input'))
      faults.push(`${name(e)} is ${e.scrollWidth - e.clientWidth} px wider than its room`)
    const text = [...e.childNodes].filter((n) => n.nodeType === 3 && n.data.trim())
    if (!text.length || e.matches('option, script, style')) continue
    const range = document.createRange()
    range.selectNodeContents(text[0])
    range.setEndAfter(text.at(-1))
    const words = range.getBoundingClientRect()
    if (!area(words)) continue
    if (words.right > innerWidth + 1 || words.left < -1) faults.push(`${name(e)} leaves the screen at ${Math.round(words.right)} px`)
    for (let up = e; up && up !== document.body; up = up.parentElement) {
      const box = up.getBoundingClientRect(), look = getComputedStyle(up)
      const sideways = look.overflowX !== 'visible' || up.matches('.card, button, .ant-segmented, .ant-segmented-item')
      if (sideways && (words.right > box.right + 1 || words.left < box.left - 1)) faults.push(`${name(e)} sticks out of ${name(up)}`)
    }
  }

  const CONTROLS = 'button, a, input, select, textarea, [role=slider], [role=switch], label.ant-segmented-item'
  const controls = [...document.body.querySelectorAll(CONTROLS)]
    .filter(shown)
    .map((e) => ({ e, box: visibleBox(e) }))
    .filter(({ box }) => area(box))
  for (let a = 0; a < controls.length; a++)
    for (let b = a + 1; b < controls.length; b++) {
      const one = controls[a], other = controls[b]
      if (one.e.contains(other.e) || other.e.contains(one.e)) continue
      const wide = Math.min(one.box.right, other.box.right) - Math.max(one.box.left, other.box.left)
      const high = Math.min(one.box.bottom, other.box.bottom) - Math.max(one.box.top, other.box.top)
      if (wide > 1.5 && high > 1.5) faults.push(`${name(one.e)} lies over ${name(other.e)}`)
    }

  const words = [...document.body.querySelectorAll('h1, h2, p, span, b, td, label, li')]
    .filter((e) => shown(e) && [...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim()))
    .map((e) => ({ e, box: visibleBox(e) }))
    .filter(({ box }) => area(box))
  for (let a = 0; a < words.length; a++)
    for (let b = a + 1; b < words.length; b++) {
      const one = words[a], other = words[b]
      if (one.e.contains(other.e) || other.e.contains(one.e)) continue
      const wide = Math.min(one.box.right, other.box.right) - Math.max(one.box.left, other.box.left)
      const high = Math.min(one.box.bottom, other.box.bottom) - Math.max(one.box.top, other.box.top)
      if (wide > 2 && high > 4) faults.push(`${name(one.e)} runs into ${name(other.e)}`)
    }
  return [...new Set(faults)]
}"""


def layout_faults(page: Page) -> list[str]:
    return list(page.evaluate(_FAULTS))
