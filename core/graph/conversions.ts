/** Which node turns one type into another, by "from>to". What is not here is refused. */
export const CONVERSIONS: Readonly<Record<string, string>> = {
  'grey>colour': 'grey-to-colour',
  'colour>grey': 'colour-to-grey',
  'colour>vector': 'colour-to-vector',
  'colour>normal': 'colour-to-normal',
  'normal>colour': 'normal-to-colour',
  'normal>vector': 'normal-to-vector',
}

const NAMES = 'IDs are names, not amounts. Take the value output instead.'
const SLOPES = 'Use height-to-normal first.'

/** Why a conversion is not done, and what to do instead. */
export const REFUSED: Readonly<Record<string, string>> = {
  'id>grey': NAMES,
  'id>colour': NAMES,
  'id>normal': NAMES,
  'id>vector': NAMES,
  'grey>normal': SLOPES,
  'grey>vector': SLOPES,
  'vector>grey': 'A direction has no single amount.',
  'vector>colour': 'A direction has no colour.',
  'vector>normal': 'A direction in the plane says nothing of its height.',
  'normal>grey': 'Convert to colour and take one channel, or start from the height.',
}

/** How a conversion is done, in the few words that stand on a wire. */
export const CONVERSION_WORDS: Readonly<Record<string, string>> = {
  'grey>colour': 'grey in all three',
  'colour>grey': 'by luminance',
  'colour>vector': 'red across, green down',
  'colour>normal': 'as a direction',
  'normal>colour': 'direction as colour',
  'normal>vector': 'slope only',
}
