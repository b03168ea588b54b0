import { Column, Entity, PrimaryColumn } from 'typeorm';
import type { FieldType } from '@cendra/core';

export interface ResultColumn {
  readonly id: string;
  readonly name: string;
  readonly type: FieldType;
  /** For a number without a fixed scale, kept as its own text: the most decimals met, to sort by. */
  readonly measuredScale?: number;
  /** Of some texts only the beginning is there; how long they are stands in a column beside. */
  readonly shortened?: boolean;
}

/** What a result was made from: who reads it must hold all of it at that moment. */
export interface Seal {
  readonly sources: readonly { readonly id: string; readonly login: string }[];
}

export interface SourceMoment {
  readonly source: string;
  readonly asOf: string;
}

@Entity('result')
export class Result {
  @PrimaryColumn('uuid') id!: string;
  @Column('jsonb') columns!: readonly ResultColumn[];
  @Column('bigint') rows!: string;
  /** False for a head run's first rows and for a result cut at a limit. */
  @Column('boolean') complete!: boolean;
  @Column('text', { nullable: true }) cut!: string | null;
  /** Per field id: how many values did not fit their type and are shown as the source's text. */
  @Column('jsonb') misfits!: Readonly<Record<string, number>>;
  @Column('jsonb') seal!: Seal;
  /** Whose run made it. */
  @Column('uuid', { name: 'made_by', nullable: true }) madeBy!: string | null;
  /** In whose order its texts are sorted. */
  @Column('text') language!: string;
  @Column('bigint') bytes!: string;
  /** The earliest of the sources' moments: nothing in it is older. */
  @Column('timestamptz', { name: 'as_of' }) asOf!: Date;
  /** When each source's snapshot was taken, by the source's clock. */
  @Column('jsonb') moments!: readonly SourceMoment[];
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date;
}
