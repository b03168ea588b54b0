import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Functions kept in sources: who may, by which sign-in, and what was made. */
export class KeptRoutines1700000009000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`create table source_keeping (
      source_id uuid primary key references source (id) on delete cascade,
      user_name text not null, secret bytea not null, goes_to text not null, in_schema text not null, people jsonb not null default '[]')`);
    await queryRunner.query(`create table kept_routine (
      id uuid primary key default gen_random_uuid(), source_id uuid not null references source (id) on delete cascade,
      signature text not null, statement text not null, replaced text, dataset_id uuid not null, made_by text not null,
      made_at timestamptz not null)`);
    await queryRunner.query('create index kept_routine_of on kept_routine (source_id, signature, made_at)');
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('drop table kept_routine');
    await queryRunner.query('drop table source_keeping');
  }
}
