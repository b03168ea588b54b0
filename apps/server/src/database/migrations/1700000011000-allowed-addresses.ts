import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Where links of rows may lead to. */
export class AllowedAddresses1700000011000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('create table allowed_address (beginning text primary key, place integer not null)');
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('drop table allowed_address');
  }
}
