import { nextTick } from 'vue'

const field =
  'input:not([type=hidden]):not([type=file]):not([disabled]), textarea:not([disabled]), select:not([disabled])'
const pressable = 'button:not([disabled]), a[href], [tabindex="0"]'

/** The first field within an element, or what else can be pressed there; where neither is, the element itself. */
export function focusFirst(root: HTMLElement | null | undefined) {
  const first = root?.querySelector<HTMLElement>(field) ?? root?.querySelector<HTMLElement>(pressable)
  ;(first ?? root)?.focus()
}

/**
 * A dialog takes the focus as a whole when it opens; from there it goes to its first field, for every dialog of the
 * product. Enter in a field of a dialog that is no form of its own presses the dialog's own button, as it does in a
 * form.
 */
export function useDialogFocus() {
  document.addEventListener('focusin', (e) => {
    const dialog = e.target as HTMLElement
    if (!dialog.matches?.('.el-dialog, .el-drawer')) return
    void nextTick(() => {
      if (document.activeElement !== dialog) return
      const body = dialog.querySelector<HTMLElement>('.el-dialog__body, .el-drawer__body')
      if (body?.querySelector(field)) focusFirst(body)
    })
  })
  document.addEventListener('keydown', (e) => {
    const at = e.target as HTMLElement
    if (e.key !== 'Enter' || e.defaultPrevented || e.isComposing || !at.matches('input:not([type=checkbox])')) return
    const dialog = at.closest('.el-dialog')
    if (!dialog || at.closest('form, .el-select, [role=combobox]')) return
    const button = dialog.querySelector<HTMLButtonElement>('.el-dialog__footer .el-button:last-child:not(.is-disabled)')
    if (button) {
      e.preventDefault()
      button.click()
    }
  })
}
