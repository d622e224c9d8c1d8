/** Bodies of all such requests under way may take 64 KiB together (Fetch standard, 4.5); a larger one fails. */
const MAX_CHARACTERS = 8192

/** A small form that is sent reaches the server even if its page is closed or reloaded in the same moment. */
export const outlivingThePage =
  (fetch: typeof window.fetch): typeof window.fetch =>
  (input, init) =>
    fetch(input, isSmallForm(init) ? { ...init, keepalive: true } : init)

const isSmallForm = (init: RequestInit | undefined): boolean =>
  init?.method?.toUpperCase() === 'POST' &&
  init.body instanceof URLSearchParams &&
  init.body.toString().length <= MAX_CHARACTERS
