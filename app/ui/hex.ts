/** "abc", "#AABBCC" and the like as "#aabbcc"; null where it is no colour. */
export function completeHex(text: string): string | null {
  const digits = text.trim().replace(/^#/, '').toLowerCase()
  if (/^[0-9a-f]{6}$/.test(digits)) return `#${digits}`
  return /^[0-9a-f]{3}$/.test(digits) ? `#${[...digits].map((digit) => digit + digit).join('')}` : null
}
