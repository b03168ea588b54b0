import { float, isNumber, whole } from '../fields';
import { arithmetic, widen } from './build';
import type { Checking } from './checking';
import { alike, article } from './checking';
import type { Expression, OrderBy, Window, WindowFunction } from './expression';
import { windowsOf } from './expression';
import { nearestName } from './nearest';
import { sumType } from './rules';
import type { CallTree, Tree } from './tree';

/** How a function over other rows is documented and completed. */
export interface WindowSpec {
  readonly name: string;
  readonly signature: string;
  readonly says: string;
}

export const WINDOWS: readonly WindowSpec[] = [
  { name: 'sum', signature: 'sum(number) over (partition by … order by …)', says: 'the sum; with an order, the running sum' },
  { name: 'avg', signature: 'avg(number) over (partition by …)', says: 'the average: the sum divided by the count, rounded once' },
  { name: 'count', signature: 'count(*) over (partition by …)', says: 'how many rows; count(x) how many where x has a value' },
  { name: 'min', signature: 'min(value) over (partition by …)', says: 'the smallest value' },
  { name: 'max', signature: 'max(value) over (partition by …)', says: 'the largest value' },
  {
    name: 'row_number',
    signature: 'row_number() over (partition by … order by …)',
    says: 'the place of the row, equal rows one after another',
  },
  { name: 'rank', signature: 'rank() over (order by … desc)', says: 'the place of the row, equal rows sharing one and leaving a gap' },
  {
    name: 'dense_rank',
    signature: 'dense_rank() over (order by … desc)',
    says: 'the place of the row, equal rows sharing one without a gap',
  },
  {
    name: 'lag',
    signature: 'lag(value, 1) over (partition by … order by …)',
    says: 'the value of the row before; a third operand stands where there is none',
  },
  {
    name: 'lead',
    signature: 'lead(value, 1) over (partition by … order by …)',
    says: 'the value of the row behind; a third operand stands where there is none',
  },
  { name: 'first_value', signature: 'first_value(value) over (partition by … order by …)', says: 'the value of the first row' },
];

export const isWindowFunction = (name: string): boolean => WINDOWS.some((each) => each.name === name);

const NAMES: Readonly<Record<string, WindowFunction>> = {
  sum: 'sum',
  avg: 'sum',
  min: 'min',
  max: 'max',
  row_number: 'rowNumber',
  rank: 'rank',
  dense_rank: 'denseRank',
  lag: 'lag',
  lead: 'lead',
  first_value: 'first',
};

type Over = Pick<Window, 'partition' | 'order' | 'frame'>;

/** A function over other rows. An average becomes a sum divided by a count, by the rule of division. */
export function checkWindow(checking: Checking, tree: Tree & { node: 'window' }): Expression | undefined {
  const { call } = tree;
  const { withoutOtherRows } = checking.scope;
  if (withoutOtherRows !== undefined)
    return checking.fail('other-rows-misplaced', withoutOtherRows, tree, 'a calculated field, made in a step before');
  if (!isWindowFunction(call.name)) {
    const near = nearestName(
      call.name,
      WINDOWS.map((each) => each.name),
    );
    return checking.fail(
      'function-unknown',
      `There is no function ${call.name} over other rows.`,
      call.nameAt,
      near ? `did you mean ${near}?` : WINDOWS.map((each) => each.name).join(', '),
      near,
    );
  }
  const over = checkOver(checking, tree);
  const args = call.args.map((each) => checking.check(each));
  const of = args.flatMap((each) => each ?? []);
  if (!over || of.length < args.length || !countFits(checking, call)) return undefined;
  const nested = [...of, ...over.partition, ...over.order.map((each) => each.of)].some((each) => windowsOf(each).length > 0);
  if (nested)
    return checking.fail(
      'other-rows-nested',
      'A value over other rows stands inside another one.',
      tree,
      'a calculated field of its own for the inner one',
    );
  return built(checking, call, of, over);
}

const OPERANDS: Readonly<Record<string, readonly [number, number]>> = {
  row_number: [0, 0],
  rank: [0, 0],
  dense_rank: [0, 0],
  lag: [1, 3],
  lead: [1, 3],
};

function countFits(checking: Checking, call: CallTree): boolean {
  if (call.star) {
    if (call.name === 'count') return true;
    checking.fail('operand-count', `${call.name}(*) has no meaning.`, call, 'count(*)');
    return false;
  }
  const [least, most] = OPERANDS[call.name] ?? [1, 1];
  if (call.args.length >= least && call.args.length <= most) return true;
  const spec = WINDOWS.find((each) => each.name === call.name);
  checking.fail(
    'operand-count',
    `${call.name} has ${call.args.length} operand${call.args.length === 1 ? '' : 's'} here.`,
    call,
    spec?.signature,
  );
  return false;
}

function checkOver(checking: Checking, tree: Tree & { node: 'window' }): Over | undefined {
  const { call, over } = tree;
  const partition = over.partition.map((each) => keyOf(checking, each));
  const order = over.order.map(({ of, descending, nullsFirst }): OrderBy | undefined => {
    const node = keyOf(checking, of);
    return node && { of: node, descending, nullsFirst };
  });
  const keys = partition.flatMap((each) => each ?? []);
  const orders = order.flatMap((each) => each ?? []);
  if (keys.length < partition.length || orders.length < order.length) return undefined;
  const needsOrder = /^(row_number|rank|dense_rank|lag|lead|first_value)$/.test(call.name) || over.frame !== undefined;
  if (needsOrder && orders.length === 0)
    return checking.fail(
      'order-missing',
      `${call.name} needs an order of the rows here.`,
      tree,
      `order by in its parentheses, such as over (order by picked_on)`,
    );
  const { frame } = over;
  if (!frame) return { partition: keys, order: orders };
  if (/^(row_number|rank|dense_rank|lag|lead)$/.test(call.name))
    return checking.fail('frame-misplaced', `${call.name} does not look at a frame of rows.`, tree, 'no “rows …” for it');
  if (frame.from !== undefined && frame.until !== undefined && frame.from > frame.until)
    return checking.fail('frame-reversed', 'The frame ends before it begins.', tree, 'rows between 3 preceding and current row');
  return { partition: keys, order: orders, frame };
}

/** What rows are grouped or ordered by: anything with an order, numbers in a scale of their own. */
function keyOf(checking: Checking, tree: Tree): Expression | undefined {
  const node = checking.check(tree);
  if (node?.type.kind === 'json')
    return checking.fail('type-mixed', 'JSON has no order and no equality.', tree, 'a text, a number or a date');
  return node;
}

function built(checking: Checking, call: CallTree, of: readonly Expression[], over: Over): Expression | undefined {
  const [first] = of;
  const name = NAMES[call.name] ?? 'count';
  if (call.name === 'count') return { op: 'window', type: whole, name: first ? 'count' : 'countRows', of, ...over };
  if (!first) return { op: 'window', type: whole, name, of: [], ...over };
  if (name === 'sum') return summed(checking, call, first, over);
  if (name === 'lag' || name === 'lead') return fetched(checking, call, name, of, over);
  if (name !== 'first' && (first.type.kind === 'json' || first.type.kind === 'yesno'))
    return checking.fail(
      'type-mixed',
      `${article(first.type).replace(/^a/, 'A')} has no smallest and largest.`,
      call.args[0] ?? call,
      'a number, a text or a date',
    );
  return { op: 'window', type: first.type, name, of: [first], ...over };
}

function summed(checking: Checking, call: CallTree, of: Expression, over: Over): Expression | undefined {
  if (!isNumber(of.type))
    return checking.fail('type-mixed', `${call.name} adds numbers, and this is ${article(of.type)}.`, call.args[0] ?? call, 'a number');
  const sum: Window = { op: 'window', type: sumType(of.type), name: 'sum', of: [of], ...over };
  if (call.name === 'sum') return sum;
  const count: Window = { op: 'window', type: whole, name: 'count', of: [of], ...over };
  return sum.type.kind === 'float'
    ? { op: 'arithmetic', type: float, operator: '/', left: sum, right: widen(count, float) }
    : arithmetic('/', sum, count);
}

function fetched(checking: Checking, call: CallTree, name: 'lag' | 'lead', of: readonly Expression[], over: Over): Expression | undefined {
  const stepTree = call.args[1];
  const step =
    stepTree === undefined ? 1 : stepTree.node === 'number' && /^\d{1,6}$/.test(stepTree.text) ? Number(stepTree.text) : undefined;
  if (step === undefined)
    return checking.fail('operand-written', 'Here the number of rows is written out.', stepTree ?? call, 'a whole number, such as 1');
  const [value, , instead] = of;
  if (!value) return undefined;
  if (!instead) return { op: 'window', type: value.type, name, step, of: [value], ...over };
  const both = alike(checking, [
    { node: value, tree: call.args[0] ?? call },
    { node: instead, tree: call.args[2] ?? call },
  ]);
  const [a, b] = both ?? [];
  return a && b && { op: 'window', type: a.type, name, step, of: [a, b], ...over };
}
