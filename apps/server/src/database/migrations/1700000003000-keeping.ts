import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Datasets are described and tagged, and a deleted one is kept for a while. */
export class Keeping1700000003000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(
      "alter table dataset add column description text not null default '', add column tags jsonb not null default '[]', add column deleted_at timestamptz",
    );
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table dataset drop column description, drop column tags, drop column deleted_at');
  }
}
