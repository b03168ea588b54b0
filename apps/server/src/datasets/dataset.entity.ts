import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

@Entity('dataset')
export class Dataset {
  @PrimaryGeneratedColumn('uuid') id!: string;
  /** Kept beside the definition for the list. */
  @Column('text') title!: string;
  /** Number of the newest revision. */
  @Column('int') revision!: number;
  @Column('uuid', { name: 'created_by', nullable: true }) createdBy!: string | null;
  @Column('timestamptz', { name: 'changed_at' }) changedAt!: Date;
}
