import type { ScriptsAround, TextStatement, TextToken, TypesMet } from '../statements';
import { metByStatement, saying, statementsIn, tokensOf } from '../statements';
import type { ScriptStep, SqlText, TextStepParts } from '../steps';
import { ofKind, scriptStep, sqlText } from '../steps';
import type { Mint } from './build';
import { slotsOf } from './build';
import type { Definition } from './definition';
import type { Edit } from './edits';
import { equal } from './equal';
import { placeOf } from './places';

type Steps = Pick<Definition, 'steps'>;

/** The scripts that run in a script's session before it, in their order. */
export function scriptsBefore({ steps }: Steps, script: ScriptStep): readonly ScriptStep[] {
  const [input] = script.inputs;
  const first = steps.find((each) => each.id === input);
  const before = first && ofKind('script', first);
  return before ? [...scriptsBefore({ steps }, before), before] : [];
}

/** The texts that run in a script's session before it, and those that go on behind it. */
export function textsAround(definition: Steps, script: ScriptStep): ScriptsAround {
  const scripts = definition.steps.flatMap((each) => ofKind('script', each) ?? []);
  const after = scripts.filter((each) => scriptsBefore(definition, each).includes(script));
  return { before: scriptsBefore(definition, script).map((each) => each.sql.text), after: after.map((each) => each.sql.text) };
}

/** The edits that make two scripts of one, and the first of them; `because` where it cannot be. */
export type ScriptSplit = { readonly edits: readonly Edit[]; readonly step: string } | { readonly because: string };

/**
 * A script as two: the statements up to one become a script of their own, and the rest goes on in its session under the id
 * of the whole, so that what stands behind it stands. Where the last one of the first gives no rows, the temp table that
 * was written last is shown in its stead.
 */
export function splitScript({ steps, parameters }: Definition, script: ScriptStep, after: number, mint: Mint): ScriptSplit {
  const { text } = script.sql;
  const tokens = tokensOf(text);
  const statements = statementsIn(tokens);
  const [ended, next] = [statements[after - 1], statements[after]];
  if (!ended || !next) return { because: 'there is nothing behind this statement' };
  const upTo = statements.slice(0, after);
  const shown = givesRows(ended) ? undefined : writtenLast(upTo);
  if (!givesRows(ended) && shown === undefined) return { because: 'no temp table stands there yet that the first could end with' };
  const cut = tokens.find((each) => each.text === ';' && each.from >= ended.to)?.to ?? ended.to;
  const closing = shown === undefined ? '' : `\n\nselect * from ${shown};`;
  const texts = [`${text.slice(0, cut)}${closing}`, text.slice(cut).trimStart()] as const;
  const met = metByStatement(script.met, statements);
  const fresh = scriptStep(mint, script.source, textWith(texts[0], [script.sql], parameters));
  const first: ScriptStep = { ...fresh, inputs: script.inputs, met: together(met.slice(0, after)), ...saidOf(script) };
  const edits: readonly Edit[] = [
    { kind: 'add step', step: first, at: { ...placeOf(steps, script.id), before: script.id }, heirs: [] },
    { kind: 'set input', step: script.id, slot: 0, from: script.inputs[0] ?? null, to: first.id },
    ...setting(script, 'sql', script.sql, textWith(texts[1], [script.sql], parameters)),
    ...setting(script, 'met', script.met, together(met.slice(after))),
  ];
  return { edits, step: first.id };
}

/**
 * A script and the one it goes on from as one, under the id of the second. The first stays where something else takes its
 * rows; a last statement of it that does nothing but show a temp table is left out. Undefined where it goes on from none.
 */
export function putTogether(definition: Definition, script: ScriptStep): readonly Edit[] | undefined {
  const first = scriptsBefore(definition, script).at(-1);
  if (!first) return undefined;
  const { text } = first.sql;
  const statements = statementsIn(tokensOf(text));
  const last = statements.at(-1);
  const onlyShows = last !== undefined && statements.length > 1 && /^select\s+\*\s+from\s+\S+$/i.test(text.slice(last.from, last.to));
  const kept = onlyShows ? text.slice(0, last.from) : text;
  const met = metByStatement(first.met, statements).slice(0, onlyShows ? -1 : undefined);
  const ends = statementsIn(tokensOf(`${kept.trimEnd()}\nselect 1`)).length > statements.length - (onlyShows ? 1 : 0);
  const whole = `${kept.trimEnd()}${ends ? '' : '\n;'}\n\n${script.sql.text}`;
  const edits: readonly Edit[] = [
    ...setting(script, 'sql', script.sql, textWith(whole, [first.sql, script.sql], definition.parameters)),
    ...setting(script, 'met', script.met, together([...met, script.met])),
    ...setting(
      script,
      'tempKeys',
      script.tempKeys,
      eitherOf(script.tempKeys, first.tempKeys, (a, b) => a.table === b.table),
    ),
    ...setting(script, 'letBe', script.letBe, eitherOf(script.letBe, first.letBe, equal)),
    { kind: 'set input', step: script.id, slot: 0, from: first.id, to: first.inputs[0] ?? null },
  ];
  const others = slotsOf(definition, first.id).length > 1 || definition.result === first.id;
  return others ? edits : [...edits, { kind: 'remove step', step: first, at: placeOf(definition.steps, first.id), heirs: [] }];
}

/** A text with the parameters its names stood for before, and where they stood for none, those called so. */
function textWith(text: string, texts: readonly SqlText[], parameters: Definition['parameters']): SqlText {
  const before = texts.flatMap(({ refs }) => refs.map(({ name, parameter }) => ({ id: parameter, name })));
  const known = [...before, ...parameters];
  return sqlText(
    text,
    known.filter(({ name }, at) => known.findIndex((each) => each.name === name) === at),
  );
}

/** What was said of its temp tables and findings holds wherever they are. */
const saidOf = ({ tempKeys, letBe }: ScriptStep): Pick<ScriptStep, 'tempKeys' | 'letBe'> => ({
  ...(tempKeys ? { tempKeys } : {}),
  ...(letBe ? { letBe } : {}),
});

/** What is said in either list, once; undefined where that is nothing. */
function eitherOf<T>(own: readonly T[] = [], other: readonly T[] = [], same: (a: T, b: T) => boolean): readonly T[] | undefined {
  const all = [...own, ...other.filter((each) => !own.some((known) => same(known, each)))];
  return all.length === 0 ? undefined : all;
}

/** What parameters meet in several statements, in the order of their places. */
function together(met: readonly TypesMet[]): TypesMet {
  const all: Record<string, readonly string[]> = {};
  for (const each of met) for (const [name, types] of Object.entries(each)) all[name] = [...(all[name] ?? []), ...types];
  return all;
}

const setting = (step: TextStepParts, property: 'sql' | 'met' | 'tempKeys' | 'letBe', from: unknown, to: unknown): readonly Edit[] =>
  equal(from, to) ? [] : [{ kind: 'set step', step: step.id, property, from, to }];

const READING = new Set(['select', 'values', 'table', 'with']);

const givesRows = ({ tokens }: TextStatement): boolean => READING.has(wordOf(saying(tokens)[0]));

const wordOf = (token: TextToken | undefined): string => token?.text.toLowerCase() ?? '';

/** The temp table the statements wrote last that none of them has dropped since, as its name is written. */
function writtenLast(statements: readonly TextStatement[]): string | undefined {
  const standing: string[] = [];
  for (const { tokens } of statements) {
    const words = saying(tokens);
    const named = tableWritten(words);
    if (named === undefined) continue;
    const before = standing.indexOf(named);
    if (before >= 0) standing.splice(before, 1);
    if (wordOf(words[0]) !== 'drop') standing.push(named);
  }
  return standing.at(-1);
}

/** The table a statement makes, fills, changes, empties or drops. */
function tableWritten(words: readonly TextToken[]): string | undefined {
  const skipped = new Set(['into', 'from', 'only', 'local', 'global', 'temp', 'temporary', 'table', 'unlogged', 'if', 'not', 'exists']);
  if (!['insert', 'update', 'delete', 'merge', 'truncate', 'create', 'alter', 'drop'].includes(wordOf(words[0]))) return undefined;
  if (wordOf(words[0]) === 'create' && !words.slice(1, 4).some((each) => wordOf(each) === 'table')) return undefined;
  if (['alter', 'drop'].includes(wordOf(words[0])) && wordOf(words[1]) !== 'table') return undefined;
  const at = words.findIndex((each, index) => index > 0 && !skipped.has(wordOf(each)));
  const name = words[at];
  if (!name || !/^[\p{L}_"]/u.test(name.text)) return undefined;
  // A name may have its schema in front.
  const written = words[at + 1]?.text === '.' ? `${name.text}.${words[at + 2]?.text ?? ''}` : name.text;
  return name.kind === 'quoted' ? written : written.toLowerCase();
}
