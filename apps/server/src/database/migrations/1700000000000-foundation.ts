import type { MigrationInterface, QueryRunner } from 'typeorm';

/** People, sources, datasets with their revisions, runs with their results, and the audit log. */
export class Foundation1700000000000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await queryRunner.query(statement);
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('drop table audit_entry, run, result, revision, dataset, source_grant, source, session, person');
  }
}

const STATEMENTS = [
  `create table person (
    id uuid primary key default gen_random_uuid(),
    name text not null unique,
    shown_name text not null,
    role text not null check (role in ('reader', 'analyst', 'steward')),
    password_hash text not null
  )`,
  `create table session (
    token_hash text primary key,
    person_id uuid not null references person on delete cascade,
    csrf text not null,
    expires_at timestamptz not null
  )`,
  `create table source (
    id uuid primary key default gen_random_uuid(),
    name text not null unique,
    mark text not null,
    kind text not null,
    settings jsonb not null,
    secret bytea not null,
    test jsonb,
    created_at timestamptz not null default now()
  )`,
  `create table source_grant (
    source_id uuid not null references source on delete cascade,
    person_id uuid not null references person on delete cascade,
    primary key (source_id, person_id)
  )`,
  `create table dataset (
    id uuid primary key default gen_random_uuid(),
    title text not null,
    revision int not null,
    created_by uuid references person on delete set null,
    changed_at timestamptz not null default now()
  )`,
  `create table revision (
    dataset_id uuid not null references dataset on delete cascade,
    number int not null,
    edit_id text not null,
    edits jsonb not null,
    sentence text not null,
    snapshot jsonb,
    person_id uuid references person on delete set null,
    made_at timestamptz not null default now(),
    primary key (dataset_id, number),
    unique (dataset_id, edit_id)
  )`,
  `create table result (
    id uuid primary key,
    columns jsonb not null,
    rows bigint not null,
    complete boolean not null,
    cut text,
    misfits jsonb not null,
    seal jsonb not null,
    bytes bigint not null,
    as_of timestamptz not null,
    made_at timestamptz not null default now()
  )`,
  `create table run (
    id uuid primary key default gen_random_uuid(),
    person_id uuid not null references person on delete cascade,
    dataset_id uuid not null references dataset on delete cascade,
    revision int not null,
    step_id text not null,
    size text not null check (size in ('head', 'full')),
    state text not null check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
    slot text not null,
    parameter_values jsonb not null,
    sources jsonb not null,
    rows_read bigint not null default 0,
    bytes_read bigint not null default 0,
    counts jsonb,
    problems jsonb,
    detail text,
    result_id uuid references result on delete set null,
    created_at timestamptz not null default now(),
    started_at timestamptz,
    ended_at timestamptz
  )`,
  'create index run_by_person on run (person_id, created_at desc)',
  "create index run_open on run (state) where state in ('waiting', 'running')",
  `create table audit_entry (
    id bigint generated always as identity primary key,
    at timestamptz not null default now(),
    person_id uuid references person on delete set null,
    person_name text not null,
    act text not null,
    subject text not null,
    detail jsonb not null default '{}'
  )`,
];
