import type { ExpressionText, Scope, Tree } from '../expressions';
import { childrenOf, linkReferences, parseExpression } from '../expressions';
import { fieldByName } from '../fields';
import type { JoinPair, PairComparison } from './pair';
import { comparedPair, COMPARISONS } from './pair';

type Names = Pick<Scope, 'schema' | 'parameters'>;

/** The pair as one condition; undefined while a side is missing, or where the condition would not say what is overlooked. */
export function writtenPair(pair: JoinPair, both: Names): JoinPair | undefined {
  if (pair.kind === 'written') return pair;
  const { left, right, until, comparison, overlooks, nullsMeet, id } = pair;
  const between = comparison === 'between';
  if (left.text.trim() === '' || right.text.trim() === '' || (between && until.text.trim() === '')) return undefined;
  if (overlooks.length > 0 || nullsMeet) return undefined;
  const text = between ? `${left.text} between ${right.text} and ${until.text}` : `${left.text} ${comparison} ${right.text}`;
  return { id, kind: 'written', expression: linkReferences(text, both) };
}

/** A whole condition as two sides in slots; undefined where it has not that shape. */
export function slotPair(pair: JoinPair & { kind: 'written' }, left: Names, right: Names): JoinPair | undefined {
  const { text } = pair.expression;
  const { tree, problems } = parseExpression(text);
  if (problems.length > 0) return undefined;
  const part = (of: Tree, names: Names): ExpressionText | undefined => {
    const used = namesIn(of);
    const known = used.length > 0 && used.every((each) => fieldByName(names.schema, each.name, each.quoted) !== undefined);
    return known ? linkReferences(text.slice(of.from, of.to), names) : undefined;
  };
  if (tree.node === 'between' && !tree.negated) {
    const [of, low, high] = [part(tree.of, left), part(tree.low, right), part(tree.high, right)];
    return of && low && high && comparedPair({ id: pair.id, left: of, comparison: 'between', right: low, until: high });
  }
  if (tree.node !== 'compare' || !isComparison(tree.operator)) return undefined;
  const [first, second] = [part(tree.left, left), part(tree.right, right)];
  if (first && second) return comparedPair({ id: pair.id, left: first, comparison: tree.operator, right: second });
  const [mine, theirs] = [part(tree.right, left), part(tree.left, right)];
  return mine && theirs && comparedPair({ id: pair.id, left: mine, comparison: TURNED[tree.operator], right: theirs });
}

type Sign = Exclude<PairComparison, 'between'>;
const isComparison = (sign: string): sign is Sign => sign !== 'between' && (COMPARISONS as readonly string[]).includes(sign);
const TURNED: Record<Sign, Sign> = { '=': '=', '<': '>', '<=': '>=', '>': '<', '>=': '<=' };

function namesIn(tree: Tree): readonly (Tree & { node: 'name' })[] {
  return tree.node === 'name' ? [tree] : childrenOf(tree).flatMap(namesIn);
}
