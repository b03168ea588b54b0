import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

export const ROLES = ['reader', 'analyst', 'steward'] as const;
export type PersonRole = (typeof ROLES)[number];

@Entity('person')
export class Person {
  @PrimaryGeneratedColumn('uuid') id!: string;
  @Column('text') name!: string;
  @Column('text', { name: 'shown_name' }) shownName!: string;
  @Column('text') role!: PersonRole;
  @Column('text', { name: 'password_hash', select: false }) passwordHash!: string;
}
