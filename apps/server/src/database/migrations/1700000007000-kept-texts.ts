import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The shelf of SQL texts. One whose source is removed stays; a steward points it to another. */
export class KeptTexts1700000007000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
      create table kept_text (
        id uuid primary key default gen_random_uuid(),
        source_id uuid not null,
        name text not null,
        note text not null,
        tags jsonb not null,
        version int not null,
        sketch int[] not null,
        changed_at timestamptz not null,
        changed_by uuid references person on delete set null
      )`);
    await queryRunner.query(`
      create table kept_text_version (
        text_id uuid not null references kept_text on delete cascade,
        number int not null,
        text text not null,
        made_at timestamptz not null,
        made_by uuid references person on delete set null,
        primary key (text_id, number)
      )`);
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('drop table kept_text_version');
    await queryRunner.query('drop table kept_text');
  }
}
