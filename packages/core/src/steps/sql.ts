import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Field, Schema } from '../fields';
import { readIn } from '../fields';
import type { Parameter } from '../parameters';
import type { ParameterPlace, TextStatement, TextToken, TypesMet } from '../statements';
import { isWord, nameOf, placesIn, renamedIn, saying, statementsIn, tablesIn, tokensOf, writtenWith } from '../statements';
import type { Calendar } from '../values';
import { describedRows } from './described-rows';
import type { PropertyChange, StepKind } from './kind';
import { parameterProblems, textProblems } from './sql-problems';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { SqlField } from './sql-fields';
import { describedShape, sqlFieldShape } from './sql-fields';
import type { StepBase } from './step';
import { NO_INPUT, stepBase } from './step';

/** A text with the parameters its `:name`s stand for, so that they stay theirs whatever they are called. */
export interface SqlText {
  readonly text: string;
  readonly refs: readonly { readonly name: string; readonly parameter: string }[];
}

/** One statement of an analyst's, run in a source as it stands. */
export interface SqlStep extends StepBase {
  readonly kind: 'sql';
  readonly source: string;
  readonly sql: SqlText;
  /** The statement's columns in their order, as its source described them last. */
  readonly fields: readonly SqlField[];
  /** The source's types of what each parameter meets, as it described them. */
  readonly met: TypesMet;
  /** Fields that together tell its rows apart, said by the analyst; none where nothing is said. */
  readonly key: readonly string[];
  readonly called?: RowWords;
  /** Findings that are let be; left out where none is. */
  readonly letBe?: readonly LetBe[];
  /** Left out where none is kept. */
  readonly sweeps?: readonly KeptSweep[];
  /** The text of the shelf it was taken from, and in which version; left out where it was not. */
  readonly kept?: FromShelf;
}

/** A kept text, by its id, as it was in one version. */
export interface FromShelf {
  readonly text: string;
  readonly version: number;
}

/** Values of a parameter a text is tried with, and the fields that are looked at. */
export interface KeptSweep {
  readonly id: string;
  readonly name: string;
  readonly parameter: string;
  /** As they were typed: a list, or from one to another by a step. */
  readonly values: string;
  readonly fields: readonly string[];
}

/** A finding that is let be: which one, at which words of the text, and why. */
export interface LetBe {
  readonly code: string;
  readonly words: string;
  readonly reason: string;
}

/** A text is so long at most, in UTF-16 units. */
export const TEXT_MOST = 250_000;

const metShape = z.record(
  z.string().max(200),
  z.array(
    z
      .string()
      .max(300)
      // It stands in a statement: a type's name and nothing else.
      .regex(/^(?:[\p{L}\p{N}_ .,()[\]]|"[^"]+")+$/u),
  ),
);

/** A part of a text as a statement of its own, as its source described it. */
export interface DescribedPart {
  readonly text: string;
  readonly met: TypesMet;
  readonly fields: readonly Omit<SqlField, 'id' | 'role'>[];
}

export const partShape: z.ZodType<DescribedPart> = z.strictObject({
  text: z.string().max(TEXT_MOST),
  met: metShape,
  fields: z.array(z.strictObject(describedShape)).max(2_000),
});

const fromShelfShape = z.strictObject({ text: id, version: z.number().int().min(1) });

const shape: z.ZodType<SqlStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('sql'),
  source: id,
  sql: z.strictObject({
    text: z.string().max(TEXT_MOST),
    refs: z.array(z.strictObject({ name: z.string().min(1).max(200), parameter: id })).max(500),
  }),
  fields: z.array(sqlFieldShape).max(2_000),
  met: metShape,
  key: z.array(id).max(64),
  called: rowWordsShape.optional() as z.ZodType<RowWords>,
  letBe: z
    .array(z.strictObject({ code: z.string().max(60), words: z.string().max(2_000), reason: z.string().min(1).max(500) }))
    .max(200)
    .optional() as unknown as z.ZodType<readonly LetBe[]>,
  sweeps: z
    .array(
      z.strictObject({
        id,
        name: z.string().min(1).max(100),
        parameter: id,
        values: z.string().max(10_000),
        fields: z.array(id).max(6),
      }),
    )
    .max(50)
    .optional() as unknown as z.ZodType<readonly KeptSweep[]>,
  kept: fromShelfShape.optional() as unknown as z.ZodType<FromShelf>,
});

/** The text read: its statement, and where its parameters stand. */
export interface CheckedSql {
  readonly statement: TextStatement | undefined;
  readonly parameters: readonly Parameter[];
}

export const sqlKind: StepKind<SqlStep, CheckedSql> = {
  kind: 'sql',
  inputs: NO_INPUT,
  shape,
  properties: {
    sql: ({ title }) => `changed the text of ${title}`,
    fields: ({ from, to, title }: PropertyChange) => fieldsSentence(from as readonly SqlField[], to as readonly SqlField[], title),
    met: ({ title }) => `took over what the parameters of ${title} meet`,
    key: ({ title }) => `said which fields tell rows of ${title} apart`,
    called: ({ to, title }) =>
      to === undefined ? `took back what rows of ${title} are called` : `called the rows of ${title} ${(to as RowWords).rows}`,
    letBe: ({ from, to, title }) =>
      ((to as readonly LetBe[] | undefined)?.length ?? 0) > ((from as readonly LetBe[] | undefined)?.length ?? 0)
        ? `let a finding of ${title} be: ${(to as readonly LetBe[]).at(-1)?.reason ?? ''}`
        : `took back that a finding of ${title} is let be`,
    sweeps: ({ from, to, title }) => {
      const [before, now] = [from, to].map((each) => (each as readonly KeptSweep[] | undefined) ?? []) as [
        readonly KeptSweep[],
        readonly KeptSweep[],
      ];
      const kept = now.find((each) => !before.some(({ id: known }) => known === each.id));
      return kept ? `kept the sweep ${kept.name} of ${title}` : `changed the sweeps kept with ${title}`;
    },
    source: ({ title }) => `pointed ${title} to another source`,
    kept: ({ from, to, title }) => {
      const [before, now] = [from, to] as [FromShelf | undefined, FromShelf | undefined];
      if (!now) return `let ${title} be a text of its own`;
      return before?.text === now.text ? `took version ${now.version} of its kept text for ${title}` : `took a kept text for ${title}`;
    },
  },
  lists: {},
  mints: (step) => step.fields.map((each) => each.id),
  sources: (step) => [step.source],
  carries: () => undefined,
  origin: (step, field) => {
    const found = step.fields.find((each) => each.id === field);
    return found && { fields: [], how: `comes as ${found.column} from the text` };
  },
  check: (step, _arriving, context) => {
    const tokens = tokensIn(step.sql);
    const statements = statementsIn(tokens);
    const parameters = parametersNamed(step.sql, context.parameters);
    const [statement] = statements;
    const words = step.called ?? { row: 'row of the text', rows: 'rows of the text' };
    const key = step.key.filter((each) => step.fields.some((field) => field.id === each));
    return {
      schema: schemaOf(step, context.calendar),
      grain: { ...words, keys: key.length > 0 ? [key] : [] },
      problems: [...textProblems(step, statements), ...(statement ? parameterProblems(step, statement, parameters) : [])],
      checked: { statement, parameters },
    };
  },
  sentence: (step) => {
    const tables = [...new Set(tablesIn(tokensIn(step.sql)).map((each) => each.table))];
    return tables.length === 0
      ? 'SQL'
      : `SQL over ${tables.slice(0, 3).join(', ')}${tables.length > 3 ? ` and ${tables.length - 3} more` : ''}`;
  },
  mentions: ({ checked: { statement, parameters } }) => {
    if (!statement) return [];
    const tokens = saying(statement.tokens);
    const ids = new Map(parameters.map((each) => [each.name, each.id]));
    const seen = new Set<string>();
    return placesIn(statement.tokens).flatMap((place) => {
      const parameter = ids.get(place.name);
      if (parameter === undefined || seen.has(place.name)) return [];
      seen.add(place.name);
      return [{ parameter, words: comparedWith(tokens, place) ?? place.name }];
    });
  },
  unasked: () => undefined,
  order: () => 'as it comes',
  relation: ({ step, schema, title, checked: { statement, parameters } }, _inputs, binding) => {
    if (!statement) throw new RangeError('a text without a statement does not run');
    return describedRows(step, schema, title, writtenWith(step.sql.text, statement, parameters, step.met, binding));
  },
  rows: () => {
    throw new RangeError('what a text means is its source’s to say');
  },
  counted: { by: 'a statement of its own' },
  followed: () => {
    throw new RangeError('nothing arrives at a text');
  },
  written: () => [],
  uses: (step, parameters) => parametersNamed(step.sql, parameters).map((each) => ({ kind: 'parameter', id: each.id })),
  renamed: (step, kind, of, name) => {
    const refs = kind === 'parameter' ? step.sql.refs.filter((each) => each.parameter === of) : [];
    return refs.reduce<SqlStep>((now, ref) => withNameInText(now, ref.name, name), step);
  },
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    sql: { ...step.sql, refs: step.sql.refs.map((each) => ({ ...each, parameter: idOf(each.parameter) })) },
    fields: step.fields.map((each) => ({ ...each, id: idOf(each.id) })),
    key: step.key.map(idOf),
    ...(step.sweeps
      ? {
          sweeps: step.sweeps.map((each) => ({
            ...each,
            id: idOf(each.id),
            parameter: idOf(each.parameter),
            fields: each.fields.map(idOf),
          })),
        }
      : {}),
  }),
  withoutValues: ({ letBe: _letBe, sweeps: _sweeps, ...step }) => ({ ...step, sql: { text: '', refs: [] }, met: {} }),
};

/** A step with a text whose fields are not known yet. */
export const sqlStep = (mint: () => string, source: string, sql: SqlText, kept?: FromShelf): SqlStep => ({
  id: mint(),
  kind: 'sql',
  name: '',
  off: false,
  inputs: [],
  source,
  sql,
  fields: [],
  met: {},
  key: [],
  ...(kept ? { kept } : {}),
});

/** The text with what its `:name`s stand for now. */
export function sqlText(text: string, parameters: readonly Pick<Parameter, 'id' | 'name'>[]): SqlText {
  const names = [...new Set(placesIn(tokensOf(text)).map((each) => each.name))];
  return { text, refs: names.flatMap((name) => parameters.flatMap((each) => (each.name === name ? [{ name, parameter: each.id }] : []))) };
}

/** Words of texts that were read before: a check asks for them several times. */
const read = new WeakMap<SqlText, readonly TextToken[]>();

function tokensIn(sql: SqlText): readonly TextToken[] {
  const tokens = read.get(sql) ?? tokensOf(sql.text);
  read.set(sql, tokens);
  return tokens;
}

/** The parameters a text names, under the names it has for them. */
export function parametersNamed(sql: SqlText, parameters: readonly Parameter[]): readonly Parameter[] {
  const names = new Set(placesIn(tokensIn(sql)).map((each) => each.name));
  return [...names].flatMap((name) => {
    const ref = sql.refs.find((each) => each.name === name)?.parameter;
    const found = parameters.find((each) => each.id === ref) ?? parameters.find((each) => each.name === name);
    return found ? [{ ...found, name }] : [];
  });
}

function withNameInText(step: SqlStep, from: string, to: string): SqlStep {
  const { text, refs } = step.sql;
  const met = Object.fromEntries(Object.entries(step.met).map(([name, types]) => [name === from ? to : name, types]));
  return {
    ...step,
    met,
    sql: { text: renamedIn(text, tokensOf(text), from, to), refs: refs.map((each) => (each.name === from ? { ...each, name: to } : each)) },
  };
}

function schemaOf(step: SqlStep, { zone }: Calendar): Schema {
  return {
    fields: step.fields.map(({ id: own, name, column, type, role }): Field => ({
      id: own,
      name,
      type: readIn(zone, type),
      role,
      origin: { step: step.id, column },
      forUseOnly: false,
    })),
  };
}

/** What a parameter is compared with, in the text's own words: the name before its operator. */
function comparedWith(tokens: TextStatement['tokens'], place: ParameterPlace): string | undefined {
  const at = tokens.findIndex((each) => each.from === place.written.from);
  const before = tokens[at - 1];
  const operator = before?.kind === 'operator' || isWord(before, 'like', 'ilike');
  const name = operator || place.written.from !== place.from ? tokens[at - (operator ? 2 : 1)] : undefined;
  return isWord(name, 'and', 'or', 'not', 'where', 'on') ? undefined : nameOf(name);
}

function fieldsSentence(from: readonly SqlField[], to: readonly SqlField[], title: string): string {
  const added = to.filter((each) => !from.some((old) => old.id === each.id)).length;
  const gone = from.filter((each) => !to.some((now) => now.id === each.id)).length;
  const some = (count: number) => `${count} field${count === 1 ? '' : 's'}`;
  if (added > 0 && gone > 0) return `took over ${some(added)} of ${title} and let go of ${some(gone)}`;
  if (added > 0) return `took over ${some(added)} of ${title}`;
  return gone > 0 ? `let go of ${some(gone)} of ${title}` : `took over the fields of ${title} as they are now`;
}
