import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Routines that may run in a source although they are declared as such that may write. */
export class AdmittedRoutines1700000008000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query("alter table source add column admitted jsonb not null default '[]'");
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table source drop column admitted');
  }
}
