import { shareBetween } from '../share-between'

/** A surface is metal or is not; only thin borders lie between. */
export default shareBetween({
  name: 'half-metal',
  title: 'Metal is 0 or 1',
  reference: 'Common practice, from memory: metallic between 0.2 and 0.8 in under 5 % of the texels.',
  of: ([metallic], i) => metallic![i]!,
  // As the channel's plausible values leave it.
  ...{ from: 0.2, to: 0.8, limit: 0.05 },
  message: 'lies between 0.2 and 0.8',
  fix: 'Put a threshold before it; rust and dirt on metal are no metal.',
})
