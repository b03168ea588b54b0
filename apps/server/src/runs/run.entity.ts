import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';
import type { ClauseCounts, GivenValues, Problem } from '@cendra/core';
import type { StageRecord } from './run-sites';

export type RunState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
export type RunSize = 'head' | 'full';

/** Exact rows after a step; whole numbers as text, for they may be larger than a JavaScript number. */
export interface RecordedCount {
  readonly step: string;
  readonly rows: string;
  readonly failed: string;
  readonly fields: readonly { readonly field: string; readonly failed: string }[];
  /** Left out of runs recorded before figures were watched. */
  readonly figures?: readonly { readonly figure: number; readonly value: string | null }[];
}

@Entity('run')
export class Run {
  @PrimaryGeneratedColumn('uuid') id!: string;
  @Column('uuid', { name: 'person_id' }) personId!: string;
  @Column('uuid', { name: 'dataset_id' }) datasetId!: string;
  @Column('int') revision!: number;
  @Column('text', { name: 'step_id' }) stepId!: string;
  @Column('text') size!: RunSize;
  /** What was looked at instead of the step's rows, such as the rows where it failed. */
  @Column('text', { nullable: true }) inspection!: string | null;
  @Column('text') state!: RunState;
  /** A newer run of the same slot replaces an older one. */
  @Column('text') slot!: string;
  @Column('jsonb', { name: 'parameter_values' }) parameterValues!: GivenValues;
  @Column('jsonb') sources!: readonly string[];
  @Column('bigint', { name: 'rows_read', default: 0 }) rowsRead!: string;
  @Column('bigint', { name: 'bytes_read', default: 0 }) bytesRead!: string;
  @Column('jsonb', { nullable: true }) counts!: readonly RecordedCount[] | null;
  /** Of a criteria step: how many rows each clause passes, and why none is left. */
  @Column('jsonb', { nullable: true }) clauses!: ClauseCounts | null;
  /** What ran where, and what was moved. */
  @Column('jsonb', { nullable: true }) stages!: readonly StageRecord[] | null;
  @Column('jsonb', { nullable: true }) problems!: readonly Problem[] | null;
  @Column('text', { nullable: true }) detail!: string | null;
  @Column('uuid', { name: 'result_id', nullable: true }) resultId!: string | null;
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date;
  @Column('timestamptz', { name: 'started_at', nullable: true }) startedAt!: Date | null;
  @Column('timestamptz', { name: 'ended_at', nullable: true }) endedAt!: Date | null;
}
