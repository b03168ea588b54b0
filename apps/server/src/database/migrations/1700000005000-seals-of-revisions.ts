import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * A revision says which sources its words and edits are about: those its definition reads and those the one before read.
 * What was typed falls under them for ever, also when no step reads them any more.
 */
export class SealsOfRevisions1700000005000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query("alter table revision add column sources text[] not null default '{}'");
    await queryRunner.query(`
      update revision r set sources = coalesce((
        select array_agg(distinct step ->> 'source')
        from revision about, jsonb_array_elements(about.document -> 'steps') step
        where about.dataset_id = r.dataset_id and about.number in (r.number, r.number - 1) and step ? 'source'
      ), '{}')`);
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table revision drop column sources');
  }
}
