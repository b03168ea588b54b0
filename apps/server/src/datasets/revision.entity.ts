import { Column, Entity, PrimaryColumn } from 'typeorm';
import type { Definition, Edit } from '@cendra/core';

/** One saved change. Append-only; every fiftieth carries the whole definition. */
@Entity('revision')
export class Revision {
  @PrimaryColumn('uuid', { name: 'dataset_id' }) datasetId!: string;
  @PrimaryColumn('int') number!: number;
  @Column('text', { name: 'edit_id' }) editId!: string;
  @Column('jsonb') edits!: readonly Edit[];
  @Column('text') sentence!: string;
  @Column('jsonb', { nullable: true }) snapshot!: Definition | null;
  @Column('uuid', { name: 'person_id', nullable: true }) personId!: string | null;
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date;
}
