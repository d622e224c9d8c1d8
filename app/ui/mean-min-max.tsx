/** Three cells of a row: the mean, least and greatest of an output. */
export function MeanMinMax({
  of,
  show,
}: {
  of: { readonly mean: number; readonly min: number; readonly max: number }
  show(value: number): string
}) {
  return (['mean', 'min', 'max'] as const).map((word) => (
    <td key={word}>
      <span className="text-ink-soft">{word}</span> {show(of[word])}
    </td>
  ))
}
