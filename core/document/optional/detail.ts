import type { OptionalChannel } from '../channel'

/** Common practice. */
const detail: OptionalChannel = {
  id: 'detail',
  title: 'Detail',
  use: 'detail',
  help: 'Where a tiled detail map shows: 1 wholly.',
  backdrop: 1,
}
export default detail
