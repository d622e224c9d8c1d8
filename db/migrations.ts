import type { Knex } from 'knex'
import * as projects from './migrations/0001-projects'
import * as states from './migrations/0002-states'
import * as packings from './migrations/0003-packings'
import * as beats from './migrations/0004-beats'
import * as materialVersion2 from './migrations/0005-material-version-2'
import * as lines from './migrations/0006-lines'
import * as notices from './migrations/0007-notices'
import * as arrangements from './migrations/0008-arrangements'
import * as deletedImages from './migrations/0009-deleted-images'
import * as tags from './migrations/0010-tags'
import * as projectValues from './migrations/0011-project-values'
import * as projectImages from './migrations/0012-project-images'
import * as models from './migrations/0013-models'
import * as partMaterials from './migrations/0014-part-materials'
import * as mapSets from './migrations/0015-map-sets'
import * as cancels from './migrations/0016-cancels'
import * as lowPriority from './migrations/0017-low-priority'
import * as setHeights from './migrations/0018-set-heights'
import * as fileSets from './migrations/0019-file-sets'

const MIGRATIONS = [
  projects,
  states,
  packings,
  beats,
  materialVersion2,
  lines,
  notices,
  arrangements,
  deletedImages,
  tags,
  projectValues,
  projectImages,
  models,
  partMaterials,
  mapSets,
  cancels,
  lowPriority,
  setHeights,
  fileSets,
]
type Migration = (typeof MIGRATIONS)[number]

/** Forward only: there is no way down, so that no data is dropped by a step back. Up to a migration, or to the newest. */
export const migrationsUpTo = (last?: string): Knex.MigrationSource<Migration> => ({
  getMigrations: async () =>
    MIGRATIONS.slice(0, last === undefined ? undefined : MIGRATIONS.findIndex(({ name }) => name === last) + 1),
  getMigrationName: (migration) => migration.name,
  getMigration: async (migration) => ({
    up: migration.up,
    down: async () => {
      throw new Error('migrations go forward only')
    },
  }),
})

export const migrationSource = migrationsUpTo()
