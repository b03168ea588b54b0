import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';
import type { TestAnswer } from './connectors/connector';

/** A test and the settings it was made with, so that a changed setting makes it stale. */
export interface RecordedTest {
  readonly answer: TestAnswer;
  readonly at: string;
  readonly settingsHash: string;
}

@Entity('source')
export class Source {
  @PrimaryGeneratedColumn('uuid') id!: string;
  @Column('text') name!: string;
  /** Two letters that stand for it on lanes. */
  @Column('text') mark!: string;
  @Column('text') kind!: string;
  /** What they are is known to the connector of the kind. */
  @Column('jsonb') settings!: object;
  @Column('bytea', { select: false }) secret!: Buffer;
  /** Signatures of routines a steward let run although they are declared as such that may write. */
  @Column('jsonb', { default: [] }) admitted!: readonly string[];
  @Column('jsonb', { nullable: true }) test!: RecordedTest | null;
}
