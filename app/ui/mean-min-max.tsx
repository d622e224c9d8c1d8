/** Three cells of a row: the mean of an output, with its deviation where that is known, the least and the greatest. */
export function MeanMinMax({
  of,
  show,
}: {
  of: { readonly mean: number; readonly min: number; readonly max: number; readonly deviation?: number }
  show(value: number): string
}) {
  return (['mean', 'min', 'max'] as const).map((word) => (
    <td key={word}>
      <span className="text-ink-soft">{word}</span> {show(of[word])}
      {word === 'mean' && of.deviation !== undefined && (
        <span title="Standard deviation: how far values lie from the mean" className="text-ink-soft">
          {' '}
          ± {show(of.deviation)}
        </span>
      )}
    </td>
  ))
}
