/** What has been told so far, as Markdown. */
export const lines: string[] = []
/** Tells a line. */
export const say = (line = ''): void => {
  lines.push(line)
  console.log(line)
}
/** Tells a table; all columns but the first are numbers. */
export const table = (head: string[], rows: (string | number)[][]): void => {
  say(`| ${head.join(' | ')} |`)
  say(`| ${head.map((_, i) => (i ? '---:' : '---')).join(' | ')} |`)
  for (const row of rows) say(`| ${row.join(' | ')} |`)
  say()
}
/** A number to three places or so. */
export const fixed = (v: number): string => (v >= 100 ? v.toFixed(0) : v >= 10 ? v.toFixed(1) : v.toFixed(2))
