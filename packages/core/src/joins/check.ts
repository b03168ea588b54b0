import type { Expression, ExpressionText, Scope } from '../expressions';
import { all, checkCondition, checkExpression, commonType, compare, conjunction, either, isNull, widen } from '../expressions';
import type { FieldId } from '../fields';
import { isDay, isNumber, typeWord } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import { overlooking, withNulls } from './overlooking';
import type { ComparedPair, JoinPair } from './pair';

/** Values that have to be equal for two rows to meet. */
export interface EqualValues {
  readonly left: Expression;
  readonly right: Expression;
}

export interface CheckedPair {
  readonly pair: JoinPair;
  /** What has to hold; undefined while the pair is unfinished or wrong. */
  readonly condition?: Expression;
  /** Where the pair asks for nothing but equal values: those, as they are compared. */
  readonly equal?: readonly EqualValues[];
  /** Of a compared pair: its sides as they are written. */
  readonly sides?: { readonly left: Expression; readonly right: Expression };
  /** Where both sides are plain fields that meet only as they are: those. */
  readonly fields?: { readonly left: FieldId; readonly right: FieldId };
  readonly problems: readonly Problem[];
}

/** The fields of either side, and of both for a whole condition. */
export interface PairScopes {
  readonly left: Scope;
  readonly right: Scope;
  readonly both: Scope;
}

/** A pair as a typed condition over both sides, or its problems at their place. */
export function checkPair(pair: JoinPair, scopes: PairScopes): CheckedPair {
  return pair.kind === 'written' ? checkWritten(pair, scopes.both) : checkCompared(pair, scopes);
}

function checkWritten(pair: JoinPair & { kind: 'written' }, scope: Scope): CheckedPair {
  const { text, refs } = pair.expression;
  if (text.trim() === '') return { pair, problems: [unfinished(pair)] };
  const checked = checkCondition(text, { ...scope, refs });
  const problems = checked.problems.map((each) => atPair(each, pair));
  return checked.expression ? { pair, condition: checked.expression, problems } : { pair, problems };
}

function checkCompared(pair: ComparedPair, scopes: PairScopes): CheckedPair {
  const read = (source: ExpressionText, scope: Scope, side: string) => {
    if (source.text.trim() === '') return { problems: [unfinished(pair)] };
    const checked = checkExpression(source.text, { ...scope, refs: source.refs });
    return { ...checked, problems: checked.problems.map((each) => atPair(each, pair, side)) };
  };
  const left = read(pair.left, scopes.left, 'left');
  const right = read(pair.right, scopes.right, 'right');
  const until = pair.comparison === 'between' ? read(pair.until, scopes.right, 'until') : undefined;
  const [first] = [...left.problems, ...right.problems, ...(until?.problems ?? [])];
  if (first || !left.expression || !right.expression)
    return { pair, problems: unique([...left.problems, ...right.problems, ...(until?.problems ?? [])]) };
  const sides = { left: left.expression, right: right.expression };
  const unlike = [right, ...(until ? [until] : [])].flatMap(({ expression }) =>
    expression ? (unlikeSides(pair, sides.left, expression) ?? []) : [],
  );
  if (unlike.length > 0) return { pair, sides, problems: unlike.slice(0, 1) };
  return { pair, sides, problems: [], ...conditionOf(pair, sides.left, sides.right, until?.expression) };
}

const unique = (problems: readonly Problem[]) =>
  problems.filter((each, at) => problems.findIndex((other) => other.code === each.code && other.message === each.message) === at);

type Condition = Pick<CheckedPair, 'condition' | 'equal' | 'fields'>;

function conditionOf(pair: ComparedPair, left: Expression, right: Expression, until: Expression | undefined): Condition {
  if (pair.comparison === 'between') return { condition: between(pair, left, right, until ?? right) };
  if (pair.comparison !== '=') return { condition: compare(pair.comparison, ...alike(left, right)) };
  const [a, b] = pair.overlooks.length > 0 ? [overlooking(left, pair.overlooks), overlooking(right, pair.overlooks)] : alike(left, right);
  const theirs = pair.nullsMeet ? withNulls(b) : [b];
  const equal = (pair.nullsMeet ? withNulls(a) : [a]).flatMap((each, at) => (theirs[at] ? [{ left: each, right: theirs[at] }] : []));
  const conditions = equal.map((each) => compare('=', each.left, each.right));
  const condition = conjunction(conditions);
  const plain = left.op === 'field' && right.op === 'field' && pair.overlooks.length === 0;
  return plain ? { condition, equal, fields: { left: left.id, right: right.id } } : { condition, equal };
}

function between({ nullsMeet }: ComparedPair, value: Expression, from: Expression, until: Expression): Expression {
  const lower = compare('>=', ...alike(value, from));
  const upper = compare('<=', ...alike(value, until));
  const open = (end: Expression, condition: Expression) => (nullsMeet ? either(isNull(end), condition) : condition);
  return all(open(from, lower), open(until, upper));
}

/** Both in the type they are compared in: exact numbers as they are, floating ones and their partners as such. */
function alike(left: Expression, right: Expression): readonly [Expression, Expression] {
  const common = commonType(left.type, right.type);
  if (!common || common.kind === 'decimal') return [left, right];
  return [widen(left, common), widen(right, common)];
}

function unlikeSides(pair: ComparedPair, left: Expression, right: Expression): Problem | undefined {
  const [a, b] = [left.type, right.type];
  const place = { clause: pair.id };
  const says = `${typeWord(a)} on the one side and ${typeWord(b)} on the other`;
  if (a.kind === 'json' || b.kind === 'json')
    return problem('pair-unsuited', 'JSON cannot be compared.', place, 'a field of another type, or a value taken out of it');
  if (pair.overlooks.length > 0 && a.kind !== 'text' && b.kind !== 'text')
    return problem('pair-overlooks', 'Differences of writing are overlooked between texts only.', place, 'the pair without them');
  if (isNumber(a) && isNumber(b)) return undefined;
  if (isDay(a) && isDay(b) && a.kind !== b.kind)
    return problem('pair-days', `They cannot meet as they are: ${says}.`, place, 'one of them converted, such as cast(… as date)');
  if (a.kind === b.kind) return undefined;
  const textAndNumber = (a.kind === 'text' && isNumber(b)) || (b.kind === 'text' && isNumber(a));
  if (textAndNumber && pair.comparison === '=') {
    if (pair.overlooks.includes('number')) return undefined;
    return problem('pair-number', `They cannot meet as they are: ${says}.`, place, 'the text read as a number, on purpose');
  }
  return problem('pair-unlike', `They cannot meet: ${says}.`, place, 'two sides of one type');
}

const unfinished = (pair: JoinPair) =>
  problem('pair-unfinished', 'This pair is not finished.', { clause: pair.id }, 'both sides of it, or the pair removed');

const atPair = (found: Problem, pair: JoinPair, side?: string): Problem => ({
  ...found,
  place: { ...found.place, clause: pair.id, ...(side === undefined ? {} : { side }) },
});
