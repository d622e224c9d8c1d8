import type { Field } from './field'
import { rowStart } from './field'

/** Least, greatest and mean value of one plane, and its standard deviation. */
export interface PlaneStatistics {
  min: number
  max: number
  mean: number
  deviation: number
}

/** Statistics of every float plane over the rows a field holds. Sums restart at each row, so order never matters. */
export function fieldStatistics(field: Field): PlaneStatistics[] {
  return field.planes.map((plane) => {
    let min = Infinity
    let max = -Infinity
    let sum = 0
    let squares = 0
    for (let row = 0; row < field.rows; row++) {
      const start = rowStart(field, field.top + row)
      let rowSum = 0
      let rowSquares = 0
      for (let x = 0; x < field.width; x++) {
        const v = plane[start + x]!
        if (v < min) min = v
        if (v > max) max = v
        rowSum += v
        rowSquares += v * v
      }
      sum += rowSum
      squares += rowSquares
    }
    const count = field.rows * field.width
    const mean = sum / count
    return { min, max, mean, deviation: Math.sqrt(Math.max(0, squares / count - mean * mean)) }
  })
}
