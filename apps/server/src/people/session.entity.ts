import { Column, Entity, JoinColumn, ManyToOne, PrimaryColumn } from 'typeorm';
import { Person } from './person.entity';

/** A signed-in browser. The token itself is only in the cookie; here is its hash. */
@Entity('session')
export class Session {
  @PrimaryColumn('text', { name: 'token_hash' }) tokenHash!: string;
  @Column('uuid', { name: 'person_id' }) personId!: string;
  /** Read only where it is joined. */
  @ManyToOne(() => Person) @JoinColumn({ name: 'person_id' }) person?: Person;
  @Column('text') csrf!: string;
  @Column('timestamptz', { name: 'expires_at' }) expiresAt!: Date;
}
