import { Column, Entity, PrimaryColumn } from 'typeorm';

/** How functions are kept in a source: by a sign-in of its own, in one schema, by some people. A source has none unless a steward says so. */
@Entity('source_keeping')
export class SourceKeeping {
  @PrimaryColumn('uuid', { name: 'source_id' }) sourceId!: string;
  /** The user that makes them, who is not the one that reads. */
  @Column('text', { name: 'user_name' }) user!: string;
  @Column('bytea', { select: false }) secret!: Buffer;
  /** Where the secret was given for: it goes nowhere else. */
  @Column('text', { name: 'goes_to' }) goesTo!: string;
  @Column('text', { name: 'in_schema' }) schema!: string;
  /** Ids of those who may. */
  @Column('jsonb', { default: [] }) people!: readonly string[];
}
