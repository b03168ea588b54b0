import type { FieldType } from '../fields';
import { isDay, isNumber, text, typeWord, whole } from '../fields';
import type { Span } from '../problem';
import { CLOCK_UNITS, EXTRACT_UNITS } from '../values';
import type { ExtractUnit } from '../values';
import { isNullLiteral, local, widen } from './build';
import type { Checking } from './checking';
import { alike, article, unify } from './checking';
import type { Expression } from './expression';
import type { FunctionSpec, Operands } from './functions';
import { nearestName } from './nearest';
import { COMMON_CALENDAR } from '../values';
import type { CallTree } from './tree';

/** The operands of a call as the function's definition asks for them. */
export function operandsFor(checking: Checking, call: CallTree, spec: FunctionSpec): Operands {
  const checked = new Map<number, Expression | undefined>();
  const any = (index: number): Expression | undefined => {
    const tree = call.args[index];
    if (tree && !checked.has(index)) checked.set(index, checking.check(tree));
    return checked.get(index);
  };
  const spanOf = (at: number | Span): Span => (typeof at === 'number' ? (call.args[at] ?? call) : at);
  const fail = (code: string, message: string, at: number | Span, expected?: string) => checking.fail(code, message, spanOf(at), expected);
  const typed = (index: number, suits: (type: FieldType) => boolean, fallback: FieldType, expected: string) => {
    const node = any(index);
    if (!node) return undefined;
    if (isNullLiteral(node)) return widen(node, fallback);
    if (suits(node.type)) return node;
    return fail(
      'type-mixed',
      `${spec.signature} takes ${expected} here, and this is ${article(node.type)}.`,
      index,
      hint(node.type, fallback),
    );
  };
  return {
    count: call.args.length,
    calendar: checking.scope.calendar ?? COMMON_CALENDAR,
    any,
    number: (index) => typed(index, isNumber, whole, 'a number'),
    whole: (index) => typed(index, (type) => type.kind === 'whole', whole, 'a whole number'),
    text: (index) => typed(index, (type) => type.kind === 'text', text, 'a text'),
    day: (index) => {
      const node = typed(index, isDay, { kind: 'date' }, 'a date');
      return node && local(node);
    },
    writtenText: (index, what) => {
      const tree = call.args[index];
      if (tree?.node === 'string') return tree.text;
      return fail('operand-written', `Here ${what} is written out.`, index, 'a text in single quotes');
    },
    writtenWhole: (index, what) => {
      const tree = call.args[index];
      const of = tree?.node === 'negate' ? tree.of : tree;
      if (tree && of?.node === 'number' && /^\d{1,9}$/.test(of.text)) return Number(of.text) * (of === tree ? 1 : -1);
      return fail('operand-written', `Here ${what} is written out.`, index, 'a whole number');
    },
    alike: (index) => {
      const trees = call.args.slice(index);
      const items = trees.flatMap((tree, at) => {
        const node = any(index + at);
        return node ? [{ node, tree }] : [];
      });
      return items.length < trees.length ? undefined : alike(checking, items);
    },
    compared: (left, right, at) => unify(checking, left, right, spanOf(at)),
    unit: () => unitOf(checking, call, any(0)?.type),
    tree: (index) => call.args[index],
    fail,
  };
}

/** What to write instead, where a conversion is the usual way out. */
function hint(from: FieldType, to: FieldType): string {
  if (to.kind === 'text') return 'a text, such as cast(… as text)';
  if (to.kind === 'whole' && isNumber(from)) return 'a whole number, such as cast(… as integer)';
  if (to.kind === 'whole') return from.kind === 'text' ? 'a number, such as cast(… as decimal(12,2))' : 'a number';
  return from.kind === 'text' ? "a date, such as cast(… as date) or parse_date(…, 'dd.MM.yyyy')" : 'a date';
}

function unitOf(checking: Checking, call: CallTree, type: FieldType | undefined): ExtractUnit | undefined {
  const written = call.unit ?? '';
  const unit = EXTRACT_UNITS.find((each) => each === written);
  const names = EXTRACT_UNITS.join(', ');
  if (!unit) {
    const near = nearestName(written, EXTRACT_UNITS);
    return checking.fail('part-unknown', `A date has no part “${written}”.`, call, near ? `did you mean ${near}?` : names);
  }
  const clock = CLOCK_UNITS.includes(unit);
  if (!type || (type.kind === 'date' ? !clock : type.kind === 'time' ? clock : true)) return unit;
  return checking.fail('part-unknown', `${article(type).replace(/^a/, 'A')} has no ${unit}.`, call, `a part a ${typeWord(type)} has`);
}
