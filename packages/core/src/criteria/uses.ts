import type { ExpressionText, Reference } from '../expressions';
import { expressionIds, linkReferences, renameReference } from '../expressions';
import type { Parameter } from '../parameters';
import type { Clause } from './clause';
import { clausesWithin } from './clause';

/** Fields and parameters the clauses ask with; parameters also by name, where they came after the clause. */
export function clauseUses(clauses: readonly Clause[], parameters: readonly Parameter[]): readonly Pick<Reference, 'kind' | 'id'>[] {
  return clauses.flatMap(clausesWithin).flatMap((clause): Pick<Reference, 'kind' | 'id'>[] => {
    if (clause.kind === 'expression') {
      const byName = linkReferences(clause.expression.text, { schema: { fields: [] }, parameters }).refs;
      return [...clause.expression.refs, ...byName];
    }
    if (clause.kind === 'group') return [];
    const operands = clause.operands.flatMap((each): readonly Pick<Reference, 'kind' | 'id'>[] => {
      if (each.kind === 'value') return [];
      return each.kind === 'expression' ? each.expression.refs : [{ kind: each.kind, id: each.id }];
    });
    return clause.field === '' ? operands : [{ kind: 'field', id: clause.field }, ...operands];
  });
}

/** The expressions written in a clause, not in those inside it. */
export function expressionsWritten(clause: Clause): readonly ExpressionText[] {
  if (clause.kind === 'expression') return [clause.expression];
  return clause.kind === 'group' ? [] : clause.operands.flatMap((each) => (each.kind === 'expression' ? [each.expression] : []));
}

/** The clauses with ids exchanged: their own, and those of fields and parameters they mention. */
export function clauseIds(clauses: readonly Clause[], idOf: (id: string) => string): readonly Clause[] {
  return clauses.map((clause): Clause => {
    const own = { ...clause, id: idOf(clause.id) };
    if (own.kind === 'group') return { ...own, clauses: clauseIds(own.clauses, idOf) };
    if (own.kind === 'expression') return { ...own, expression: expressionIds(own.expression, idOf) };
    const operands = own.operands.map((each) =>
      each.kind === 'value'
        ? each
        : each.kind === 'expression'
          ? { ...each, expression: expressionIds(each.expression, idOf) }
          : { ...each, id: idOf(each.id) },
    );
    return { ...own, field: own.field === '' ? '' : idOf(own.field), operands };
  });
}

/** The clauses with every mention of a field or parameter written with its new name. */
export function renameInClauses(clauses: readonly Clause[], kind: Reference['kind'], id: string, name: string): readonly Clause[] {
  return clauses.map((clause): Clause => {
    if (clause.kind === 'group') return { ...clause, clauses: renameInClauses(clause.clauses, kind, id, name) };
    if (clause.kind === 'expression') return { ...clause, expression: renameReference(clause.expression, kind, id, name) };
    const operands = clause.operands.map((each) =>
      each.kind === 'expression' ? { ...each, expression: renameReference(each.expression, kind, id, name) } : each,
    );
    return { ...clause, operands };
  });
}
