import { Column, Entity, PrimaryColumn } from 'typeorm';

/** A signed-in browser. The token itself is only in the cookie; here is its hash. */
@Entity('session')
export class Session {
  @PrimaryColumn('text', { name: 'token_hash' }) tokenHash!: string;
  @Column('uuid', { name: 'person_id' }) personId!: string;
  @Column('text') csrf!: string;
  @Column('timestamptz', { name: 'expires_at' }) expiresAt!: Date;
}
