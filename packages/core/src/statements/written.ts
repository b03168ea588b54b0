import type { Binding, Bound, Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { Value } from '../values';
import { writeValue } from '../values';
import type { ParameterPlace } from './places';
import type { TextPart, TextValue } from './parts';
import type { TextStatement } from './split';
import { placesIn } from './places';

/** The source's own names of the types its parameters were found to have, in the order of their places in the text. */
export type TypesMet = Readonly<Record<string, readonly string[]>>;

/** What a parameter's values are read as where the source was not asked what they meet. */
const OWN_TYPES: Readonly<Record<Parameter['type'], string>> = {
  text: 'text',
  'whole number': 'bigint',
  decimal: 'numeric',
  date: 'date',
  'date-time': 'timestamp without time zone',
  'yes/no': 'boolean',
};

export const ownType = ({ type }: Pick<Parameter, 'type'>): string => OWN_TYPES[type];

/** A stretch of the text and what stands there instead. */
interface Instead {
  readonly from: number;
  readonly to: number;
  readonly parts: readonly TextPart[];
}

/**
 * A statement as parts: its own text, and values where parameters stand. Whoever writes it gives each value a place; none
 * is ever written into it. A condition whose parameter is blank, and off then, is `true`.
 */
export function writtenWith(
  text: string,
  statement: TextStatement,
  parameters: readonly Parameter[],
  met: TypesMet,
  { bound, blanks }: Pick<Binding, 'bound' | 'blanks'>,
): readonly TextPart[] {
  return writtenAt(text, statement, parameters, met, { bound, blanks }).map(({ part }) => part);
}

/** A part, and where in the text it stands or what it stands for does. */
export interface PlacedPart {
  readonly part: TextPart;
  readonly at: number;
}

/** The same, each part with its place, so that what a source says of it can be told where the text says it. */
export function writtenAt(
  text: string,
  statement: TextStatement,
  parameters: readonly Parameter[],
  met: TypesMet,
  { bound, blanks }: Pick<Binding, 'bound' | 'blanks'>,
): readonly PlacedPart[] {
  const byName = new Map(parameters.map((each) => [each.name, each]));
  const seen = new Map<string, number>();
  const places = placesIn(statement.tokens);
  const asked = new Set(places.filter(({ stands }) => stands === 'asked whether blank').map(({ name }) => name));
  const instead = places.flatMap((place): readonly Instead[] => {
    const parameter = byName.get(place.name);
    if (!parameter) return [];
    const type = (): string => {
      const at = seen.get(place.name) ?? 0;
      seen.set(place.name, at + 1);
      return met[place.name]?.[at] ?? `${ownType(parameter)}${place.stands === 'several' ? '[]' : ''}`;
    };
    const types = place.stands === 'range' ? [type(), type()] : [type()];
    const isBlank = bound.get(parameter.id) === undefined;
    const off = blanks.get(parameter.takes === 'range' ? `${parameter.id}.from` : parameter.id) === 'off';
    if (isBlank && off && !asked.has(place.name) && place.condition.whole)
      return [{ from: place.condition.from, to: place.condition.to, parts: ['true'] }];
    const parts = partsOf(place, parameter, types, bound.get(parameter.id), blanks);
    return [{ ...place.written, parts: place.enclosed ? ['(', ...parts, ')'] : parts }];
  });
  return replaced(text, statement, outermost(instead));
}

/** A condition that is taken away takes what stands in it along. */
function outermost(instead: readonly Instead[]): readonly Instead[] {
  const sorted = [...instead].sort((a, b) => a.from - b.from || b.to - a.to);
  const kept: Instead[] = [];
  for (const each of sorted) if (each.from >= (kept.at(-1)?.to ?? 0)) kept.push(each);
  return kept;
}

function replaced(text: string, { from, to }: TextStatement, instead: readonly Instead[]): readonly PlacedPart[] {
  const parts: PlacedPart[] = [];
  let at = from;
  for (const each of instead) {
    parts.push({ part: text.slice(at, each.from), at }, ...each.parts.map((part) => ({ part, at: each.from })));
    at = each.to;
  }
  parts.push({ part: text.slice(at, to), at });
  return parts.filter(({ part }) => part !== '');
}

/** What parameters meet in each statement of a text: `met` says it of all places of the text in their order. */
export function metByStatement(met: TypesMet, statements: readonly TextStatement[]): readonly TypesMet[] {
  const seen = new Map<string, number>();
  return statements.map(({ tokens }) => {
    const own: Record<string, readonly string[]> = {};
    for (const { name, stands } of placesIn(tokens)) {
      const at = seen.get(name) ?? 0;
      const to = at + (stands === 'range' ? 2 : 1);
      own[name] = [...(own[name] ?? []), ...(met[name]?.slice(at, to) ?? [])];
      seen.set(name, to);
    }
    return own;
  });
}

function partsOf(
  place: ParameterPlace,
  parameter: Parameter,
  [type = 'text', untilType = type]: readonly string[],
  bound: Bound | undefined,
  blanks: Binding['blanks'],
): readonly TextPart[] {
  const written = (value: Value) => (value === null ? null : writeValue(parameterType(parameter), value));
  const part = (value: TextValue['value'], as: string, end?: 'from' | 'until'): TextValue => ({
    parameter: parameter.id,
    as,
    value,
    ...(end ? { end } : {}),
  });
  if (place.stands === 'range') {
    const not = place.negated ? 'not ' : '';
    const [from, until] = bound?.takes === 'range' ? [bound.from, bound.until] : [null, null];
    const openFrom = from === null && blanks.get(`${parameter.id}.from`) === 'off';
    const openUntil = until === null && blanks.get(`${parameter.id}.until`) === 'off';
    if (openFrom && !openUntil) return [place.negated ? '> ' : '<= ', part(written(until), untilType, 'until')];
    if (openUntil && !openFrom) return [place.negated ? '< ' : '>= ', part(written(from), type, 'from')];
    return [`${not}between `, part(written(from), type, 'from'), ' and ', part(written(until), untilType, 'until')];
  }
  if (place.stands === 'several') {
    const values = bound?.takes === 'several' ? bound.values : bound?.takes === 'one' ? [bound.value] : undefined;
    const list = part(values ? values.flatMap((each) => written(each) ?? []) : null, type);
    if (place.written.from === place.from) return [list];
    return place.negated ? ['<> all (', list, ')'] : ['= any (', list, ')'];
  }
  return [part(bound?.takes === 'one' ? written(bound.value) : null, type)];
}

/**
 * The statement as a source can be asked to describe it: numbered places instead of parameters, and which parameter and
 * type, where one has to be said, each of them has. Without a type the source says what it meets.
 */
export function describable(
  text: string,
  statement: TextStatement,
  parameters: readonly Pick<Parameter, 'name' | 'type'>[],
): { readonly text: string; readonly places: readonly DescribedPlace[]; readonly moved: readonly Moved[] } {
  const byName = new Map(parameters.map((each) => [each.name, each]));
  const places: DescribedPlace[] = [];
  const moved: Moved[] = [];
  let out = '';
  let at = statement.from;
  const keep = (to: number) => {
    moved.push({ out: out.length, text: at });
    out += text.slice(at, to);
  };
  for (const place of placesIn(statement.tokens)) {
    keep(place.written.from);
    const numbered = () => {
      const parameter = byName.get(place.name);
      const type = parameter ? ownType(parameter) : place.untold ? 'text' : undefined;
      places.push({ name: place.name, type: place.stands === 'asked whether blank' ? type : undefined });
      return `$${places.length}`;
    };
    moved.push({ out: out.length, text: place.written.from });
    if (place.stands === 'range') out += `${place.negated ? 'not ' : ''}between ${numbered()} and ${numbered()}`;
    else if (place.stands === 'several' && place.written.from !== place.from)
      out += `${place.negated ? '<> all' : '= any'} (${numbered()})`;
    else out += numbered();
    at = place.written.to;
  }
  keep(statement.to);
  return { text: out, places, moved };
}

export interface DescribedPlace {
  readonly name: string;
  readonly type: string | undefined;
}

/** From here on, offsets of what was written belong to offsets of the text. */
export interface Moved {
  readonly out: number;
  readonly text: number;
}

/** The offset in the text of an offset in what was made of it. */
export function offsetBack(moved: readonly Moved[], offset: number): number {
  const last = moved.filter((each) => each.out <= offset).at(-1);
  return last ? last.text + offset - last.out : offset;
}

/** The text with a parameter's `:name` written as another name, wherever it stands as one. */
export function renamedIn(text: string, tokens: TextStatement['tokens'], from: string, to: string): string {
  return tokens.length === 0
    ? text
    : tokens.map((each) => (each.kind === 'parameter' && each.text === `:${from}` ? `:${to}` : each.text)).join('');
}
