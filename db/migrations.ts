import type { Knex } from 'knex'
import * as projects from './migrations/0001-projects'
import * as states from './migrations/0002-states'
import * as packings from './migrations/0003-packings'
import * as beats from './migrations/0004-beats'
import * as materialVersion2 from './migrations/0005-material-version-2'

const MIGRATIONS = [projects, states, packings, beats, materialVersion2]
type Migration = (typeof MIGRATIONS)[number]

/** Forward only: there is no way down, so that no data is dropped by a step back. */
export const migrationSource: Knex.MigrationSource<Migration> = {
  getMigrations: async () => [...MIGRATIONS],
  getMigrationName: (migration) => migration.name,
  getMigration: async (migration) => ({
    up: migration.up,
    down: async () => {
      throw new Error('migrations go forward only')
    },
  }),
}
