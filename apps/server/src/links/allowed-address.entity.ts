import { Column, Entity, PrimaryColumn } from 'typeorm';

/** The beginning of addresses that links of rows may lead to, as a steward said. */
@Entity('allowed_address')
export class AllowedAddress {
  @PrimaryColumn('text') beginning!: string;
  @Column('int') place!: number;
}
