import type { Knex } from 'knex'

/**
 * Models of projects and what is baked of them. A mesh is kept by the content of its packed bytes (core/mesh/packed-mesh.ts), whatever
 * file it came from and however it was laid out; its summary says what lists need. Runs may be about a model instead of a material.
 */
export const name = '0013-models'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table meshes (
      sha256 text primary key references blobs,
      summary jsonb not null,
      created_at timestamptz not null default now()
    );

    create table models (
      id uuid primary key default gen_random_uuid(),
      project_id uuid not null references projects on delete cascade,
      name text not null,
      file_name text not null,
      -- The mesh as it came, and as it is laid out now.
      original_sha256 text not null references meshes,
      mesh_sha256 text not null references meshes,
      high_name text,
      high_sha256 text references meshes,
      cage_name text,
      cage_sha256 text references meshes,
      settings jsonb not null,
      created_at timestamptz not null default now(),
      changed_at timestamptz not null default now(),
      deleted_at timestamptz
    );
    create index on models (project_id);

    create table mesh_data (
      model_id uuid not null references models on delete cascade,
      part integer not null,
      kind text not null,
      udim integer not null,
      key text not null,
      sha256 text not null references blobs,
      shape jsonb not null,
      missed integer not null,
      -- Where the high twin was not met, over the picture; null where it was met everywhere.
      missed_picture bytea,
      picture bytea not null,
      swatch bytea not null,
      record jsonb not null,
      created_at timestamptz not null default now(),
      primary key (model_id, part, kind, udim)
    );

    alter table runs alter column document_id drop not null;
    alter table runs alter column revision drop not null;
    alter table runs add column model_id uuid references models on delete cascade;
    -- What is being done right now, for who looks: of which part, and how much longer.
    alter table runs add column detail jsonb;
    alter table runs drop constraint runs_kind_check;
    alter table runs add constraint runs_kind_check check (kind in ('bake', 'picture', 'mesh'));
    alter table runs add constraint runs_about_one check ((document_id is null) <> (model_id is null));
    create index on runs (model_id);
  `)
}
