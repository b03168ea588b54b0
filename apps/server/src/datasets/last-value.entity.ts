import { Column, Entity, PrimaryColumn } from 'typeorm';

/** What a person chose last for a parameter: the choice itself, such as a relative word, not what it came to. */
@Entity('last_value')
export class LastValue {
  @PrimaryColumn('uuid', { name: 'person_id' }) personId!: string;
  @PrimaryColumn('uuid', { name: 'dataset_id' }) datasetId!: string;
  @PrimaryColumn('text', { name: 'parameter_id' }) parameterId!: string;
  @Column('jsonb') given!: readonly string[];
  @Column('timestamptz', { name: 'changed_at' }) changedAt!: Date;
}
