/** '' where an error keeps to its bound, else a line that tells case, error and bound; for readable failures. */
export const describeError = (what: string | number, error: number, bound: number): string =>
  error <= bound ? '' : `${what}: error ${error} above ${bound}`
