import type { Binding, Dialect, FieldId, Relation, Site, Statement } from '@cendra/core';
import { compile, forTransfer, withMarks, withMisfits } from '@cendra/core';

/** A relation to be written as a statement of the place it runs at. */
export interface StatementWanted {
  readonly relation: Relation;
  readonly site: Site;
  readonly binding: Pick<Binding, 'bound' | 'now'>;
  /** Where its rows are sent on: what fits no type of a result is sent as text. */
  readonly sent?: true;
  /** Where its rows are kept: fields with values that fit no type, by the landed result they come in. */
  readonly marked?: ReadonlyMap<string, readonly FieldId[]>;
  /** Where a few rows are told of landed ones: the same, for what fails by such values. */
  readonly misfits?: ReadonlyMap<string, readonly FieldId[]>;
}

export interface StatementMade {
  readonly statement: Statement;
  /** Fields that have their marks beside them. */
  readonly marked: readonly FieldId[];
}

/** Writes a statement; large ones are written in a thread. */
export type WriteStatement = (wanted: StatementWanted) => Promise<StatementMade>;

/** Values and names are in it as the compiler puts them; nothing else writes text. */
export function statementMade({ relation, binding, sent, marked, misfits }: StatementWanted, dialect: Dialect): StatementMade {
  const told = misfits ? withMisfits(relation, misfits) : relation;
  if (!marked) return { statement: compile(sent ? forTransfer(told) : told, dialect, binding), marked: [] };
  const beside = withMarks(relation, marked);
  return { statement: compile(beside.relation, dialect, binding), marked: beside.fields };
}
