import { Column, Entity, PrimaryColumn } from 'typeorm';
import type { Edit } from '@cendra/core';

/** One saved change, append-only: the whole document after it, with its edits beside it for words and rebasing. */
@Entity('revision')
export class Revision {
  @PrimaryColumn('uuid', { name: 'dataset_id' }) datasetId!: string;
  @PrimaryColumn('int') number!: number;
  @Column('text', { name: 'edit_id' }) editId!: string;
  @Column('jsonb') edits!: readonly Edit[];
  @Column('text') sentence!: string;
  /** As it was stored; it may be of an older version, and is migrated when it is read. */
  @Column('jsonb') document!: unknown;
  /** The sources its sentence and edits are about; who lacks one of them does not read these. */
  @Column('text', { array: true }) sources!: readonly string[];
  @Column('uuid', { name: 'person_id', nullable: true }) personId!: string | null;
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date;
}
