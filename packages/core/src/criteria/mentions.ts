import type { Expression } from '../expressions';
import { nodesOf } from '../expressions';
import type { FieldType, Schema } from '../fields';
import { fieldById } from '../fields';
import type { Parameter } from '../parameters';
import type { CheckedClause } from './check';
import type { Clause } from './clause';
import { clausesWithin } from './clause';
import { clauseUses } from './uses';

interface Mention {
  readonly parameter: string;
  readonly words: string;
  readonly meets?: FieldType;
}

/** The parameters clauses ask with, those of clauses that are off left out. */
export function clauseMentions(
  clauses: readonly Clause[],
  checked: readonly CheckedClause[],
  schema: Schema,
  parameters: readonly Parameter[],
): readonly Mention[] {
  const asked = clauses
    .filter((each) => !each.off)
    .flatMap(clausesWithin)
    .filter((each) => !each.off);
  const expressions = new Map(checked.flatMap(withInner).map((each) => [each.clause.id, each.expression]));
  return asked.flatMap((clause): readonly Mention[] => {
    if (clause.kind === 'group') return [];
    if (clause.kind === 'expression') {
      const expression = expressions.get(clause.id);
      return mentionsIn(clauseUses([clause], parameters), expression, parameters);
    }
    const field = fieldById(schema, clause.field);
    const subject = field?.name ?? 'a missing field';
    return clause.operands.flatMap((operand): readonly Mention[] => {
      if (operand.kind === 'expression') return mentionsIn(operand.expression.refs, undefined, parameters);
      if (operand.kind !== 'parameter') return [];
      const mention = { parameter: operand.id, words: `${subject} ${clause.operator}` };
      return [field ? { ...mention, meets: field.type } : mention];
    });
  });
}

const withInner = (checked: CheckedClause): readonly CheckedClause[] => [checked, ...(checked.inner ?? []).flatMap(withInner)];

/** Parameters mentioned in a written expression: by their own name, once for each type of what they meet there. */
export function mentionsIn(
  uses: readonly { readonly kind: string; readonly id: string }[],
  expression: Expression | undefined,
  parameters: readonly Parameter[],
  wordsFor: (parameter: Parameter) => string = ({ name }) => `:${name} is`,
): readonly Mention[] {
  const ids = new Set(uses.flatMap(({ kind, id }) => (kind === 'parameter' ? [id] : [])));
  const met = expression ? typesMet(expression) : [];
  return parameters.flatMap((parameter): readonly Mention[] => {
    if (!ids.has(parameter.id)) return [];
    const mention = { parameter: parameter.id, words: wordsFor(parameter) };
    const types = met.filter((each) => each.id === parameter.id);
    return types.length === 0 ? [mention] : types.map(({ type }) => ({ ...mention, meets: type }));
  });
}

/** The types of what parameters are compared with in an expression. */
function typesMet(root: Expression): readonly { readonly id: string; readonly type: FieldType }[] {
  const bare = (of: Expression): Expression => (of.op === 'widen' || of.op === 'cast' ? bare(of.of) : of);
  return nodesOf(root).flatMap((node) => {
    if (node.op === 'inList') return [{ id: node.id, type: node.of.type }];
    if (node.op !== 'compare') return [];
    const [left, right] = [bare(node.left), bare(node.right)];
    return [
      ...(left.op === 'parameter' ? [{ id: left.id, type: right.type }] : []),
      ...(right.op === 'parameter' ? [{ id: right.id, type: left.type }] : []),
    ];
  });
}
