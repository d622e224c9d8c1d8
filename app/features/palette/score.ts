/** Words anywhere, names first; every word of the search must be found. */
export function scoreOf(text: string, name: string, search: string): number {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const all = text.toLowerCase()
  if (!words.every((word) => all.includes(word))) return 0
  const start = words[0] ?? ''
  if (name.toLowerCase().startsWith(start)) return 1
  return name.toLowerCase().includes(start) ? 0.8 : 0.4
}
