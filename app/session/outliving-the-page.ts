/** Bodies of all such requests under way may take 64 KiB together (Fetch standard, 4.5); a larger one fails. */
const MAX_CHARACTERS = 8192

/** A small form, or a little JSON, that is sent reaches the server even if its page is closed or reloaded in the same moment. */
export const outlivingThePage =
  (fetch: typeof window.fetch): typeof window.fetch =>
  (input, init) =>
    fetch(input, isSmall(init) ? { ...init, keepalive: true } : init)

const isSmall = (init: RequestInit | undefined): boolean =>
  init?.method?.toUpperCase() === 'POST' &&
  (init.body instanceof URLSearchParams || typeof init.body === 'string') &&
  init.body.toString().length <= MAX_CHARACTERS
