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

/** Moves the keyboard back to the sheet. */
export const backToSheet = (): void =>
  document.querySelector<HTMLElement>('[role=grid] [tabindex="0"][data-at]')?.focus()
