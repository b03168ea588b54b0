import type { FieldType } from '../fields';
import { isNumber, readIn } from '../fields';
import { cast, isNullLiteral, widen } from './build';
import type { Checking } from './checking';
import { article } from './checking';
import type { Expression } from './expression';
import type { Tree } from './tree';

/** A value in another type, as far as one can become the other. */
export function checkCast(checking: Checking, tree: Tree & { node: 'cast' }): Expression | undefined {
  const of = checking.check(tree.of);
  if (!of || !tree.type) return undefined;
  const type = readIn(checking.scope.calendar?.zone, tree.type);
  if (isNullLiteral(of)) return widen(of, type);
  if (castable(of.type, type)) return cast(of, type);
  const expected = of.type.kind === 'yesno' ? 'case when … then 1 else 0 end' : `a type that ${article(of.type)} can become`;
  return checking.fail('cast-unsuited', `${article(of.type).replace(/^a/, 'A')} cannot become ${article(type)}.`, tree.typeAt, expected);
}

const MOMENTS = ['date', 'time', 'datetime', 'instant'];

function castable(from: FieldType, to: FieldType): boolean {
  if (to.kind === 'text' || from.kind === to.kind) return true;
  if (from.kind === 'text') return to.kind !== 'json' && to.kind !== 'instant';
  if (isNumber(from)) return isNumber(to);
  if (from.kind === 'date') return to.kind === 'datetime';
  return MOMENTS.includes(from.kind) && from.kind !== 'time' && MOMENTS.includes(to.kind);
}
