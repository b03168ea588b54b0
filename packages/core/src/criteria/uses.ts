import type { Reference } from '../expressions';
import { renameReference } from '../expressions';
import type { Clause } from './clause';
import { clausesWithin } from './clause';

/** Fields and parameters the clauses ask with, in reading order. */
export function clauseUses(clauses: readonly Clause[]): readonly Pick<Reference, 'kind' | 'id'>[] {
  return clauses.flatMap(clausesWithin).flatMap((clause): Pick<Reference, 'kind' | 'id'>[] => {
    if (clause.kind === 'expression') return [...clause.expression.refs];
    if (clause.kind === 'group') return [];
    const operands = clause.operands.flatMap((each): Pick<Reference, 'kind' | 'id'>[] =>
      each.kind === 'value' ? [] : [{ kind: each.kind, id: each.id }],
    );
    return clause.field === '' ? operands : [{ kind: 'field', id: clause.field }, ...operands];
  });
}

/** The clauses with every mention of a field or parameter written with its new name. */
export function renameInClauses(clauses: readonly Clause[], kind: Reference['kind'], id: string, name: string): readonly Clause[] {
  return clauses.map((clause): Clause => {
    if (clause.kind === 'group') return { ...clause, clauses: renameInClauses(clause.clauses, kind, id, name) };
    return clause.kind === 'expression' ? { ...clause, expression: renameReference(clause.expression, kind, id, name) } : clause;
  });
}
