import { isNumber } from '../fields';
import type { SyntaxTree } from '../statements';
import { listOf, membersOf, namesOf } from '../statements';
import type { Members } from './speech';
import { say } from './speech';
import { stringOf, typed, wholeOf } from './literals';
import type { Meaning } from './meaning';
import { typeOf } from './meaning';
import type { Said } from './said';
import { one } from './said';
import { unsaid } from './unsaid';

const TYPES: Readonly<Record<string, string>> = {
  int2: 'integer',
  int4: 'integer',
  int8: 'integer',
  float4: 'double precision',
  float8: 'double precision',
  text: 'text',
  varchar: 'text',
  bool: 'boolean',
  date: 'date',
  timestamp: 'timestamp',
  time: 'time',
};

/** `x::type`. A constant in quotes is written as what it is. */
export function saidCast(of: Members, meaning: Meaning): Said {
  const { names, typmods, arrayBounds } = membersOf({ TypeName: of.typeName ?? null }, 'TypeName') ?? {};
  const name = namesOf(names).at(-1) ?? '';
  const text = stringOf(of.arg);
  const refuse = () => unsaid(`A cast to ${name} has no counterpart.`, of.location);
  if (arrayBounds !== undefined) return refuse();
  if (text !== undefined && ['date', 'timestamp', 'time'].includes(name) && typmods === undefined)
    return typed(text, { kind: name === 'timestamp' ? 'datetime' : (name as 'date' | 'time') }, of.location);
  const value = say(of.arg, meaning);
  const type = typeOf(value, meaning);
  if (name === 'numeric') {
    const [precision, scale = 0] = listOf(typmods).map(wholeOf);
    if (precision !== undefined) return precision <= 38 ? one(`cast(${value.text} as decimal(${precision},${scale}))`) : refuse();
    // Whole numbers and decimals are counted exactly anyway.
    return type && isNumber(type) && type.kind !== 'float'
      ? value
      : unsaid('A number without a fixed scale has no counterpart.', of.location);
  }
  const own = TYPES[name];
  if (own === undefined || typmods !== undefined) return refuse();
  if (own === 'text' && (type?.kind === 'float' || type?.kind === 'instant' || type?.kind === 'yesno' || type?.kind === 'json'))
    return unsaid('Its source writes such a value as a text in its own way.', of.location);
  if (type && sameWord(own, type.kind)) return value;
  return one(`cast(${value.text} as ${own})`);
}

const sameWord = (word: string, kind: string) =>
  ({ integer: 'whole', text: 'text', boolean: 'yesno', date: 'date', timestamp: 'datetime', time: 'time', 'double precision': 'float' })[
    word
  ] === kind;

/** What is cast in a tree, casts taken off: names are given by what stands inside. */
export function withoutCasts(tree: SyntaxTree | undefined): SyntaxTree | undefined {
  let inner = tree;
  for (let cast = membersOf(inner, 'TypeCast'); cast; cast = membersOf(inner, 'TypeCast')) inner = cast.arg;
  return inner;
}
