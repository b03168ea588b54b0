import { Column, Entity, PrimaryColumn } from 'typeorm';

@Entity('audit_entry')
export class AuditEntry {
  @PrimaryColumn('bigint', { insert: false }) id!: string;
  @Column('timestamptz') at!: Date;
  @Column('uuid', { name: 'person_id', nullable: true }) personId!: string | null;
  @Column('text', { name: 'person_name' }) personName!: string;
  @Column('text') act!: string;
  @Column('text') subject!: string;
  @Column('jsonb') detail!: Record<string, unknown>;
}
