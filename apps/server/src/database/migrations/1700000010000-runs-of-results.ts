import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The runs of a result are looked for where it is read, and where it is removed. */
export class RunsOfResults1700000010000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('create index run_of_result on run (result_id) where result_id is not null');
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('drop index run_of_result');
  }
}
