import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { closeByEscape } from '@/shared/escape'

let stop: () => void
beforeEach(() => (stop = closeByEscape()))
afterEach(() => {
  stop()
  document.body.innerHTML = ''
})

function dialog(style = '') {
  document.body.insertAdjacentHTML(
    'beforeend',
    `<div class="ant-modal-wrap" style="${style}"><button class="ant-modal-close"></button><input></div>`,
  )
  const wrap = document.body.lastElementChild as HTMLElement
  const closed = vi.fn()
  wrap.querySelector('button')!.addEventListener('click', closed)
  return { wrap, closed }
}
const escape = (on: Element) =>
  on.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))

it('closes a dialog that has not the focus yet, the top one of two', () => {
  const under = dialog()
  const top = dialog()
  escape(document.body)
  expect([under.closed.mock.calls.length, top.closed.mock.calls.length]).toEqual([0, 1])
})

it('leaves to the dialog what is pressed inside it, and closed ones alone', () => {
  const shut = dialog('display: none')
  escape(document.body)
  expect(shut.closed).not.toHaveBeenCalled()
  const open = dialog()
  escape(open.wrap.querySelector('input')!)
  expect(open.closed).not.toHaveBeenCalled()
})
