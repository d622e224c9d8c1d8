import type { ByteWriter, RowWriter } from './byte-writer'
import type { FileAssembler, FileBand, CodedRows, FileRows } from '../file-format'

/** What rows are coded by, once a shape is chosen. */
export interface BandCoder<Rows> {
  readonly blockRows: number
  /** Values of a row. */
  readonly rowLength: number
  readonly height: number
  code(rows: Rows, band: FileBand): CodedRows
  start(to: ByteWriter): FileAssembler
}

/** Writes rows in any number at a time, on this thread. */
export function writeRows<Rows extends FileRows>(coder: BandCoder<Rows>, to: ByteWriter): RowWriter<Rows> {
  const { blockRows, rowLength, height } = coder
  const file = coder.start(to)
  let top = 0
  let above: Rows | null = null
  let waiting: Rows | null = null
  const write = (values: Rows): void => {
    const rows = values.length / rowLength
    file.add(coder.code(values, { top, rows, above }), { top, rows })
    above = values.slice(values.length - rowLength) as Rows
    top += rows
  }
  return {
    rows: (values) => {
      const all = waiting ? (concat(waiting, values) as Rows) : values
      const rows = all.length / rowLength
      const whole = top + rows === height ? rows : rows - (rows % blockRows)
      waiting = whole < rows ? (all.slice(whole * rowLength) as Rows) : null
      if (whole > 0) write(all.subarray(0, whole * rowLength) as Rows)
    },
    end: () => {
      if (top !== height) throw new RangeError(`expected ${height} rows but received ${top}`)
      return file.end()
    },
  }
}

function concat(a: FileRows, b: FileRows): FileRows {
  const all = new (a.constructor as new (length: number) => FileRows)(a.length + b.length)
  all.set(a)
  all.set(b, a.length)
  return all
}
