/** Moves the keyboard into the pane that edits what is chosen. */
export function openEditor(): void {
  requestAnimationFrame(() => {
    const fields = [
      ...document.querySelectorAll<HTMLElement>('[data-editor] :is(input, select, button:not(:disabled))'),
    ]
    // What is put in before how; settings before the tools beside the title.
    const value = document.querySelector<HTMLElement>('[data-editor] [data-value] input')
    if (value) return value.focus()
    const first = fields.find((field) => !field.closest('header')) ?? fields[0]
    first?.focus()
  })
}

/** Tries of a frame each to find what was just added. */
const TRIES = 40

/** Moves the keyboard to what was just added, once it is on screen and what closed has given the focus back. */
function focusSoon(selector: string, tries = TRIES): void {
  setTimeout(() => {
    const element = document.querySelector<HTMLElement>(selector)
    if (element) element.focus()
    else if (tries > 0) focusSoon(selector, tries - 1)
  }, 32)
}
export const focusNode = (id: string): void => focusSoon(`.react-flow__node[data-id="${CSS.escape(id)}"]`)
export const focusSelectedRow = (): void => focusSoon('[role=grid] [tabindex="0"][data-at]')

/** Moves the keyboard back to the sheet. */
export const backToSheet = (): void =>
  document.querySelector<HTMLElement>('[role=grid] [tabindex="0"][data-at]')?.focus()
