/** At most `units` UTF-16 units from the front of a text; never half of a character (Unicode 15, D75). */
export function cutText(text: string, units: number): string {
  const cut = text.slice(0, units)
  return isHigh(cut.charCodeAt(cut.length - 1)) && cut.length < text.length ? cut.slice(0, -1) : cut
}

/** The same from the end. */
export function cutTextEnd(text: string, units: number): string {
  if (text.length <= units) return text
  const cut = text.slice(text.length - units)
  return isLow(cut.charCodeAt(0)) ? cut.slice(1) : cut
}

const isHigh = (unit: number): boolean => unit >= 0xd800 && unit <= 0xdbff
const isLow = (unit: number): boolean => unit >= 0xdc00 && unit <= 0xdfff
