/** "1.4 MB". */
export function bytesInWords(bytes: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB']
  let at = 0
  let value = bytes
  while (value >= 1000 && at < units.length - 1) {
    value /= 1000
    at++
  }
  return `${at === 0 || value >= 100 ? Math.round(value) : value.toFixed(1)} ${units[at]}`
}

/** "40 s", "3 min", "2 h 5 min". */
export function secondsInWords(seconds: number): string {
  const s = Math.max(0, Math.round(seconds))
  if (s < 90) return `${s} s`
  const minutes = Math.round(s / 60)
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`
}

/** "just now", "12 min ago", "3 h ago", then the date. */
export function agoInWords(moment: string, now: number): string {
  const seconds = (now - Date.parse(moment)) / 1000
  if (seconds < 60) return 'just now'
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min ago`
  if (seconds < 86400) return `${Math.floor(seconds / 3600)} h ago`
  return new Date(moment).toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  })
}

export const counted = (count: number, noun: string, many = `${noun}s`): string =>
  `${count} ${count === 1 ? noun : many}`
