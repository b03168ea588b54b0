import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

@Entity('dataset')
export class Dataset {
  @PrimaryGeneratedColumn('uuid') id!: string;
  /** Kept beside the definition for the list. */
  @Column('text') title!: string;
  @Column('text', { default: '' }) description!: string;
  @Column('jsonb', { default: [] }) tags!: readonly string[];
  /** Number of the newest revision. */
  @Column('int') revision!: number;
  @Column('uuid', { name: 'created_by', nullable: true }) createdBy!: string | null;
  @Column('timestamptz', { name: 'changed_at' }) changedAt!: Date;
  /** Deleted, and kept for a while so that it can be taken back. */
  @Column('timestamptz', { name: 'deleted_at', nullable: true }) deletedAt!: Date | null;
}
