import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A run can ask something else of a step than its rows. */
export class Asks1700000001000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table run add column ask text');
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table run drop column ask');
  }
}
