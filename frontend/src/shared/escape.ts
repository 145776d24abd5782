const DIALOG = '.ant-modal-wrap'

/**
 * Escape closes the dialog on top from its first moment. The library gives it the focus only once it has faded in; a press before
 * that would be lost.
 */
export function closeByEscape() {
  const closing = (event: KeyboardEvent) => {
    if (event.key !== 'Escape' || event.defaultPrevented) return
    const focused = event.target instanceof Element ? event.target : null
    if (focused?.closest(`${DIALOG}, .ant-dropdown, .ant-popover, .ant-select-open`)) return
    const open = [...document.querySelectorAll<HTMLElement>(DIALOG)].filter(
      (dialog) => dialog.style.display !== 'none',
    )
    open.at(-1)?.querySelector<HTMLElement>('.ant-modal-close')?.click()
  }
  document.addEventListener('keydown', closing)
  return () => document.removeEventListener('keydown', closing)
}
