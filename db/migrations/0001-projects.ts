import type { Knex } from 'knex'

/**
 * Projects and what they hold. Bytes are content-addressed: images and deliveries name blobs by SHA-256.
 * Revisions are append-only; `documents.head` and `current` follow the newest.
 */
export const name = '0001-projects'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table projects (
      id uuid primary key default gen_random_uuid(),
      name text not null,
      origin text unique,
      created_at timestamptz not null default now(),
      changed_at timestamptz not null default now(),
      deleted_at timestamptz
    );

    create table documents (
      id uuid primary key default gen_random_uuid(),
      project_id uuid not null references projects on delete cascade,
      name text not null,
      head integer not null default 0,
      current jsonb not null,
      created_at timestamptz not null default now(),
      changed_at timestamptz not null default now(),
      deleted_at timestamptz
    );
    create index on documents (project_id);

    create table revisions (
      document_id uuid not null references documents on delete cascade,
      number integer not null,
      kind text not null check (kind in ('start', 'edit', 'undo', 'redo')),
      of integer,
      label text not null,
      patches jsonb not null,
      inverse jsonb not null,
      snapshot jsonb,
      edit_id uuid not null,
      created_at timestamptz not null default now(),
      primary key (document_id, number),
      unique (document_id, edit_id)
    );

    create table blobs (
      sha256 text primary key,
      bytes bigint not null,
      created_at timestamptz not null default now()
    );
    create table blob_chunks (
      sha256 text not null references blobs on delete cascade,
      index integer not null,
      bytes bytea not null,
      primary key (sha256, index)
    );
    -- Deflating what is packed already costs time and gains nothing.
    alter table blob_chunks alter column bytes set storage external;

    create table assets (
      sha256 text primary key references blobs,
      raster_sha256 text not null references blobs,
      name text not null,
      width integer not null,
      height integer not null,
      channels integer not null,
      bits integer not null,
      float boolean not null,
      thumbnail bytea not null,
      created_at timestamptz not null default now()
    );
    create table asset_uses (
      sha256 text not null,
      document_id uuid not null references documents on delete cascade,
      primary key (sha256, document_id)
    );

    create table packings (
      id uuid primary key default gen_random_uuid(),
      project_id uuid not null references projects on delete cascade,
      name text not null,
      packing jsonb not null,
      unique (project_id, name)
    );

    create table runs (
      id uuid primary key default gen_random_uuid(),
      kind text not null check (kind in ('bake', 'picture')),
      project_id uuid not null references projects on delete cascade,
      document_id uuid not null references documents on delete cascade,
      revision integer not null,
      request jsonb not null,
      state text not null default 'queued' check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
      progress real not null default 0,
      attempt integer not null default 0,
      worker text,
      lease_until timestamptz,
      cancel_asked boolean not null default false,
      error text,
      result text,
      log jsonb not null default '[]',
      created_at timestamptz not null default now(),
      started_at timestamptz,
      ended_at timestamptz,
      changed_at timestamptz not null default now()
    );
    create index on runs (changed_at);
    create index on runs (project_id, created_at);

    create table deliveries (
      id uuid primary key default gen_random_uuid(),
      run_id uuid not null unique references runs on delete cascade,
      project_id uuid not null references projects on delete cascade,
      document_id uuid not null references documents on delete cascade,
      revision integer not null,
      name text not null,
      record jsonb not null,
      zip_sha256 text not null references blobs,
      created_at timestamptz not null default now()
    );
    create index on deliveries (project_id, created_at);

    create table pictures (
      document_id uuid primary key references documents on delete cascade,
      revision integer not null,
      png bytea not null
    );
  `)
}
