import castIron from './cast-iron.json' with { type: 'json' }
import copperVerdigris from './copper-verdigris.json' with { type: 'json' }
import cork from './cork.json' with { type: 'json' }
import ice from './ice.json' with { type: 'json' }
import limePlaster from './lime-plaster.json' with { type: 'json' }
import riverClay from './river-clay.json' with { type: 'json' }
import sailcloth from './sailcloth.json' with { type: 'json' }
import slate from './slate.json' with { type: 'json' }

/** A material to begin with. Its picture is public/starts/ID.webp. */
export interface Start {
  readonly id: string
  readonly about: string
  readonly document: { readonly name: string }
}

/** All that ship, as they are offered. */
export const STARTS: readonly Start[] = [
  { id: 'slate', about: 'riven, with rusty seams', document: slate },
  { id: 'lime-plaster', about: 'trowelled, hairline cracks', document: limePlaster },
  { id: 'cast-iron', about: 'sand-cast skin, rust', document: castIron },
  { id: 'copper-verdigris', about: 'tarnished, green runs', document: copperVerdigris },
  { id: 'sailcloth', about: 'plain weave, stains', document: sailcloth },
  { id: 'river-clay', about: 'dried and cracked', document: riverClay },
  { id: 'cork', about: 'pressed granules', document: cork },
  { id: 'ice', about: 'white cracks, frost', document: ice },
]
