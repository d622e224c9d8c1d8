/** "1.4 MB". */
export function bytesInWords(bytes: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB']
  let at = 0
  let value = bytes
  // What would be rounded up to 1000 is 1.0 of the next unit.
  while (value >= 999.5 && at < units.length - 1) {
    value /= 1000
    at++
  }
  return `${at === 0 || value >= 100 ? Math.round(value) : value.toFixed(1)} ${units[at]}`
}

/** How far work is, 0–1: "43 %"; at its beginning by tenths, "0.4 %", so that long work is seen to go on. */
export const progressInWords = (progress: number): string =>
  progress > 0 && progress < 0.0995 ? `${(progress * 100).toFixed(1)} %` : `${Math.round(progress * 100)} %`

/** "40 s", "3 min", "2 h 5 min". */
export function secondsInWords(seconds: number): string {
  const s = Math.max(0, Math.round(seconds))
  if (s < 90) return `${s} s`
  const minutes = Math.round(s / 60)
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`
}

const ago = new Intl.RelativeTimeFormat('en-GB', { numeric: 'auto', style: 'short' })

/** "now", "12 min ago", "3 hr ago", "yesterday", then the date. */
export function agoInWords(moment: string, now: number): string {
  const seconds = (now - Date.parse(moment)) / 1000
  if (seconds < 60) return ago.format(0, 'second')
  if (seconds < 3600) return ago.format(-Math.floor(seconds / 60), 'minute')
  if (seconds < 86400) return ago.format(-Math.floor(seconds / 3600), 'hour')
  if (seconds < 7 * 86400) return ago.format(-Math.floor(seconds / 86400), 'day')
  return new Date(moment).toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  })
}

export const counted = (count: number, noun: string, many = `${noun}s`): string =>
  `${count} ${count === 1 ? noun : many}`
