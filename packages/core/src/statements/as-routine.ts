import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { ParameterPlace } from './places';
import { placesIn } from './places';
import { quotedName } from './quoted-name';
import type { TextStatement } from './split';
import type { TypesMet } from './written';
import { metByStatement, ownType } from './written';

/** A text of SQL, or a script, as a function that is kept in its source: typed arguments, fields by name, never `*`. */

/** A text as it is kept: its statements, what parameters meet in them, and the fields of its rows. */
export interface TextToKeep {
  readonly text: string;
  readonly statements: readonly TextStatement[];
  readonly parameters: readonly Parameter[];
  readonly met: TypesMet;
  readonly fields: readonly { readonly name: string; readonly sourceType: string }[];
}

/** What is known of a script by its grammar: statements in its middle that only read, by number, and the temp tables it makes. */
export interface ScriptToKeep {
  readonly reading: ReadonlySet<number>;
  readonly made: readonly string[];
}

export interface RoutineName {
  readonly schema: string;
  readonly name: string;
}

/** An argument of the function that is made: of a parameter, or of one end of its range. */
export interface KeptArgument {
  readonly name: string;
  readonly sourceType: string;
  readonly parameter: string;
  readonly end?: 'from' | 'until';
  /** It may be left out, and its condition is off then. */
  readonly optional: boolean;
}

export interface KeptRoutine {
  /** What makes the function. */
  readonly statement: string;
  /** In their order. */
  readonly arguments: readonly KeptArgument[];
}

/** The statement that makes the function, or why the text cannot be kept as one. */
export function asRoutine(
  kept: TextToKeep,
  { schema, name }: RoutineName,
  script?: ScriptToKeep,
): { readonly routine: KeptRoutine; readonly problems: readonly [] } | { readonly problems: readonly Problem[] } {
  const args = argumentsOf(kept);
  const problems: Problem[] = [];
  const mets = metByStatement(kept.met, kept.statements);
  const written = kept.statements.map((statement, at) => writtenIn(kept, statement, mets[at] ?? {}, args, problems));
  const last = written.at(-1);
  if (last === undefined) problems.push(problem('text-empty', 'There is no statement in this text.', {}, 'a text that gives rows'));
  if (kept.fields.length === 0)
    problems.push(problem('text-not-described', 'Which fields it gives is not known yet.', {}, 'its fields, as the source describes them'));
  if (problems.length > 0 || last === undefined) return { problems };
  const names = kept.fields.map((each) => quotedName(each.name));
  const rows = `select ${names.map((each) => `r.${each}`).join(', ')}\nfrom (\n${last}\n) as r(${names.join(', ')})`;
  const body = script ? inBlock(written.slice(0, -1), rows, script) : rows;
  const tag = freeTag(body);
  const taken = args.map(({ name: own, sourceType, optional }) => `${quotedName(own)} ${sourceType}${optional ? ' default null' : ''}`);
  const gives = kept.fields.map((each) => `${quotedName(each.name)} ${each.sourceType}`).join(', ');
  const how = script ? 'language plpgsql volatile' : 'language sql stable';
  const head = `create function ${quotedName(schema)}.${quotedName(name)}(${taken.join(', ')})\nreturns table (${gives})\n${how} as ${tag}\n`;
  return { routine: { statement: `${head}${body}\n${tag}`, arguments: args }, problems: [] };
}

/** In a block of its own; the temp tables of a call before this one, in the same session, make room. */
function inBlock(before: readonly string[], rows: string, { reading, made }: ScriptToKeep): string {
  const room = made.map((each) => `drop table if exists pg_temp.${quotedName(each)};`);
  const statements = before.flatMap((each, at) => (reading.has(at + 1) ? [] : [`${each};`]));
  return ['#variable_conflict use_column', 'begin', ...room, ...statements, `return query ${rows};`, 'end'].join('\n');
}

function freeTag(body: string): string {
  for (let count = 1; ; count++) {
    const tag = count === 1 ? '$kept$' : `$kept_${count}$`;
    if (!body.includes(tag)) return tag;
  }
}

/** Each parameter once, with the type it meets first; those that may be left out come last, as a source wants it. */
function argumentsOf({ statements, parameters, met, fields }: TextToKeep): readonly KeptArgument[] {
  const places = statements.flatMap((each) => placesIn(each.tokens));
  const taken = new Set(fields.map((each) => each.name));
  const free = (wanted: string) => {
    let found = taken.has(wanted) ? `for_${wanted}` : wanted;
    for (let count = 2; taken.has(found); count++) found = `for_${wanted}_${count}`;
    taken.add(found);
    return found;
  };
  const all = [...new Set(places.map((each) => each.name))].flatMap((own): readonly KeptArgument[] => {
    const parameter = parameters.find((each) => each.name === own);
    const place = places.find((each) => each.name === own);
    if (!parameter || !place) return [];
    const optional = parameter.leftBlank !== 'must be filled';
    const [first, second] = met[own] ?? [];
    const usual = ownType(parameter);
    if (place.stands === 'range')
      return (['from', 'until'] as const).map((end) => ({
        name: free(`${own}_${end}`),
        sourceType: (end === 'from' ? first : second) ?? usual,
        parameter: parameter.id,
        end,
        optional,
      }));
    const sourceType = first ?? `${usual}${place.stands === 'several' ? '[]' : ''}`;
    return [{ name: free(own), sourceType, parameter: parameter.id, optional }];
  });
  return [...all.filter((each) => !each.optional), ...all.filter((each) => each.optional)];
}

/** Which end of a range is open, where one is. */
type Open = 'from' | 'until' | undefined;

/** A statement with `$n` where its parameters stand; a condition that is off for a blank one asks nothing then. */
function writtenIn(
  { text, parameters }: TextToKeep,
  statement: TextStatement,
  met: TypesMet,
  args: readonly KeptArgument[],
  problems: Problem[],
): string {
  const places = placesIn(statement.tokens).filter((each) => parameters.some((own) => own.name === each.name));
  const asked = new Set(places.filter((each) => each.stands === 'asked whether blank').map((each) => each.name));
  const typeAt = typesByPlace(places, met);
  const numberOf = (place: ParameterPlace, end?: 'from' | 'until') => {
    const id = parameters.find((each) => each.name === place.name)?.id;
    const at = args.findIndex((each) => each.parameter === id && each.end === end);
    const own = `$${at + 1}`;
    const wanted = typeAt(place, end);
    return wanted === undefined || wanted === args[at]?.sourceType ? own : `${own}::${wanted}`;
  };
  const valueAt = (place: ParameterPlace, open: Open): string => {
    if (place.stands === 'range') {
      if (open === 'from') return `${place.negated ? '> ' : '<= '}${numberOf(place, 'until')}`;
      if (open === 'until') return `${place.negated ? '< ' : '>= '}${numberOf(place, 'from')}`;
      return `${place.negated ? 'not ' : ''}between ${numberOf(place, 'from')} and ${numberOf(place, 'until')}`;
    }
    if (place.stands === 'several' && place.written.from !== place.from)
      return `${place.negated ? '<> all' : '= any'} (${numberOf(place)})`;
    return numberOf(place);
  };
  const between = (from: number, to: number, open: Open): string => {
    let out = '';
    let at = from;
    for (const place of places) {
      if (place.written.from < from || place.written.to > to) continue;
      out += `${text.slice(at, place.written.from)}${valueAt(place, open)}`;
      at = place.written.to;
    }
    return out + text.slice(at, to);
  };
  const off = places.filter((place) => {
    const parameter = parameters.find((each) => each.name === place.name);
    return parameter?.leftBlank === 'condition is off' && place.condition.whole && !asked.has(place.name);
  });
  const spans = conditionsOf(off);
  const clash = spans.some((a) => spans.some((b) => a !== b && a.from < b.to && b.from < a.to));
  const ranges = spans.some(({ places: within }) => within.filter((each) => each.stands === 'range').length > 1);
  if (clash || ranges)
    problems.push(
      problem(
        'text-not-kept',
        'Conditions that are off for blank parameters stand within one another here, which a function cannot say.',
        {},
        'parameters that must be filled, or conditions beside one another',
      ),
    );
  let out = '';
  let at = statement.from;
  for (const { from, to, places: within } of spans.toSorted((a, b) => a.from - b.from)) {
    if (from < at) continue;
    out += `${between(at, from, undefined)}${optional(within, numberOf, (open) => between(from, to, open))}`;
    at = to;
  }
  return out + between(at, statement.to, undefined);
}

/** A condition that asks nothing where a parameter in it is null, and only one end where a range has only that. */
function optional(
  within: readonly ParameterPlace[],
  numberOf: (place: ParameterPlace, end?: 'from' | 'until') => string,
  condition: (open: Open) => string,
): string {
  const range = within.find((each) => each.stands === 'range');
  const blank = within.flatMap((each) => (each.stands === 'range' ? [] : [`${numberOf(each)} is null`]));
  // On lines of its own, since a condition may end in a comment.
  const own = (open: Open) => `(\n${condition(open)}\n)`;
  if (!range) return `(${[...new Set(blank)].join(' or ')} or ${own(undefined)})`;
  const [from, until] = [numberOf(range, 'from'), numberOf(range, 'until')];
  const cases = `case when ${from} is null and ${until} is null then true when ${from} is null then ${own('from')} when ${until} is null then ${own('until')} else ${own(undefined)} end`;
  return `(${[...new Set(blank), cases].join(' or ')})`;
}

interface Condition {
  readonly from: number;
  readonly to: number;
  readonly places: readonly ParameterPlace[];
}

function conditionsOf(places: readonly ParameterPlace[]): readonly Condition[] {
  const found = new Map<string, { from: number; to: number; places: ParameterPlace[] }>();
  for (const place of places) {
    if (!place.condition.whole) continue;
    const { from, to } = place.condition;
    const known = found.get(`${from} ${to}`) ?? { from, to, places: [] };
    known.places.push(place);
    found.set(`${from} ${to}`, known);
  }
  return [...found.values()];
}

/** The source's type of what each place meets, which may be another one than where the parameter stands first. */
function typesByPlace(places: readonly ParameterPlace[], met: TypesMet) {
  const types = new Map<ParameterPlace, readonly (string | undefined)[]>();
  const seen = new Map<string, number>();
  for (const place of places) {
    const at = seen.get(place.name) ?? 0;
    const count = place.stands === 'range' ? 2 : 1;
    types.set(place, met[place.name]?.slice(at, at + count) ?? []);
    seen.set(place.name, at + count);
  }
  return (place: ParameterPlace, end?: 'from' | 'until') => types.get(place)?.[end === 'until' ? 1 : 0];
}
