import { Column, Entity, PrimaryColumn, PrimaryGeneratedColumn } from 'typeorm';

/** A SQL text on the shelf: what is said of it. Its words are in its versions. */
@Entity('kept_text')
export class KeptText {
  @PrimaryGeneratedColumn('uuid') id!: string;
  /** The source it is written for; who lacks it sees name and note only. */
  @Column('uuid', { name: 'source_id' }) sourceId!: string;
  @Column('text') name!: string;
  @Column('text') note!: string;
  @Column('jsonb') tags!: readonly string[];
  /** Number of the newest version. */
  @Column('int') version!: number;
  /** What the newest version says, for finding those alike; not read with the rest. */
  @Column('int', { array: true, select: false }) sketch!: readonly number[];
  @Column('timestamptz', { name: 'changed_at' }) changedAt!: Date;
  @Column('uuid', { name: 'changed_by', nullable: true }) changedBy!: string | null;
}

/** What a kept text was from one change to the next. Versions stay. */
@Entity('kept_text_version')
export class KeptTextVersion {
  @PrimaryColumn('uuid', { name: 'text_id' }) textId!: string;
  @PrimaryColumn('int') number!: number;
  @Column('text') text!: string;
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date;
  @Column('uuid', { name: 'made_by', nullable: true }) madeBy!: string | null;
}
