import type { MigrationInterface, QueryRunner } from 'typeorm';
import { replayed } from './edits-of-version-4';

/**
 * Every revision keeps its whole document: those that had edits only get theirs from the last one that had it. Runs say
 * what was looked at, what ran where and what moved; results say whose they are and each source's moment.
 */
export class Ground1700000004000 implements MigrationInterface {
  async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('alter table revision rename column snapshot to document');
    await this.fill(queryRunner);
    for (const statement of UP) await queryRunner.query(statement);
  }

  async down(queryRunner: QueryRunner): Promise<void> {
    for (const statement of DOWN) await queryRunner.query(statement);
  }

  private async fill(queryRunner: QueryRunner): Promise<void> {
    const rows = (await queryRunner.query(
      'select dataset_id, number, edits, document from revision order by dataset_id, number',
    )) as readonly { dataset_id: string; number: number; edits: readonly object[]; document: object | null }[];
    let before: { readonly dataset: string; readonly document: object } | undefined;
    for (const { dataset_id: dataset, number, edits, document } of rows) {
      const known: object = document ?? replayed(before?.dataset === dataset ? before.document : {}, edits);
      before = { dataset, document: known };
      if (document === null)
        await queryRunner.query('update revision set document = $3 where dataset_id = $1 and number = $2', [
          dataset,
          number,
          JSON.stringify(known),
        ]);
    }
  }
}

const UP = [
  'alter table revision alter column document set not null',
  'alter table run rename column ask to inspection',
  'alter table run add column stages jsonb',
  "alter table result add column moments jsonb not null default '[]', add column made_by uuid references person on delete set null",
];
const DOWN = [
  'alter table result drop column moments, drop column made_by',
  'alter table run drop column stages',
  'alter table run rename column inspection to ask',
  'alter table revision alter column document drop not null',
  'alter table revision rename column document to snapshot',
];
