import { Entity, PrimaryColumn } from 'typeorm';

@Entity('source_grant')
export class SourceGrant {
  @PrimaryColumn('uuid', { name: 'source_id' }) sourceId!: string;
  @PrimaryColumn('uuid', { name: 'person_id' }) personId!: string;
}
