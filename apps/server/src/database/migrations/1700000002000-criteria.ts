import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A run keeps how many rows each clause passes; each person's last values of a dataset are remembered. */
export class Criteria1700000002000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table run add column clauses jsonb');
    await queryRunner.query(`create table last_value (
      person_id uuid not null references person (id) on delete cascade,
      dataset_id uuid not null references dataset (id) on delete cascade,
      parameter_id text not null,
      given jsonb not null,
      changed_at timestamptz not null,
      primary key (person_id, dataset_id, parameter_id)
    )`);
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('drop table last_value');
    await queryRunner.query('alter table run drop column clauses');
  }
}
