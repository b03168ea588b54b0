import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A function that was made in a source from a text, with the one it took the place of. */
@Entity('kept_routine')
export class KeptRoutine {
  @PrimaryGeneratedColumn('uuid') id!: string;
  @Column('uuid', { name: 'source_id' }) sourceId!: string;
  @Column('text') signature!: string;
  @Column('text') statement!: string;
  /** What was there before; null where nothing was. */
  @Column('text', { nullable: true }) replaced!: string | null;
  /** The dataset it was made from. */
  @Column('uuid', { name: 'dataset_id' }) datasetId!: string;
  @Column('text', { name: 'made_by' }) madeBy!: string;
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date;
}
