import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A result says in whose order its texts are sorted. */
export class LanguageOfResults1700000006000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query("alter table result add column language text not null default 'en'");
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table result drop column language');
  }
}
