import type { Knex } from 'knex'

/** Images that were brought into a project, whether its materials use them or not. */
export const name = '0012-project-images'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table project_images (
      project_id uuid not null references projects on delete cascade,
      sha256 text not null references assets on delete cascade,
      primary key (project_id, sha256)
    );
    -- Until now all projects had all images.
    insert into project_images (project_id, sha256)
      select p.id, a.sha256 from projects p cross join assets a
      where not exists (select 1 from asset_uses u where u.sha256 = a.sha256);
  `)
}
