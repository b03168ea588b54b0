import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Field, Schema } from '../fields';
import { readIn } from '../fields';
import type { Parameter } from '../parameters';
import type { ParameterPlace, TextStatement, TextToken, TypesMet } from '../statements';
import { isWord, nameOf, placesIn, renamedIn, saying, tokensOf } from '../statements';
import type { Calendar } from '../values';
import type { PropertyChange } from './kind';
import type { RowWords } from './row-words';
import type { SqlField } from './sql-fields';
import type { StepBase } from './step';
import { NO_INPUT } from './step';

/** What steps have whose rows come of a text of an analyst's, of one statement or several. */
export interface TextStepParts {
  readonly id: string;
  readonly source: string;
  readonly sql: SqlText;
  /** The columns of its rows in their order, as its source described them last. */
  readonly fields: readonly SqlField[];
  /** The source's types of what each parameter meets, as it described them. */
  readonly met: TypesMet;
  /** Fields that together tell its rows apart, said by the analyst; none where nothing is said. */
  readonly key: readonly string[];
  /** Findings that are let be; left out where none is. */
  readonly letBe?: readonly LetBe[];
}

/** A text with the parameters its `:name`s stand for, so that they stay theirs whatever they are called. */
export interface SqlText {
  readonly text: string;
  readonly refs: readonly { readonly name: string; readonly parameter: string }[];
}

/** A finding that is let be: which one, at which words of the text, and why. */
export interface LetBe {
  readonly code: string;
  readonly words: string;
  readonly reason: string;
}

/** A text is so long at most, in UTF-16 units. */
export const TEXT_MOST = 250_000;

export const metShape = z.record(
  z.string().max(200),
  z.array(
    z
      .string()
      .max(300)
      // It stands in a statement: a type's name and nothing else.
      .regex(/^(?:[\p{L}\p{N}_ .,()[\]]|"[^"]+")+$/u),
  ),
);

export const sqlTextShape: z.ZodType<SqlText> = z.strictObject({
  text: z.string().max(TEXT_MOST),
  refs: z.array(z.strictObject({ name: z.string().min(1).max(200), parameter: id })).max(500),
});

export const letBeShape = z
  .array(z.strictObject({ code: z.string().max(60), words: z.string().max(2_000), reason: z.string().min(1).max(500) }))
  .max(200)
  .optional() as unknown as z.ZodType<readonly LetBe[]>;

/** In words, that a finding is let be, or is not any more. */
function letBeSentence(from: readonly LetBe[] | undefined, to: readonly LetBe[] | undefined, title: string): string {
  return (to?.length ?? 0) > (from?.length ?? 0)
    ? `let a finding of ${title} be: ${to?.at(-1)?.reason ?? ''}`
    : `took back that a finding of ${title} is let be`;
}

/** The text with what its `:name`s stand for now. */
export function sqlText(text: string, parameters: readonly Pick<Parameter, 'id' | 'name'>[]): SqlText {
  const names = [...new Set(placesIn(tokensOf(text)).map((each) => each.name))];
  return { text, refs: names.flatMap((name) => parameters.flatMap((each) => (each.name === name ? [{ name, parameter: each.id }] : []))) };
}

/** Words of texts that were read before: a check asks for them several times. */
const read = new WeakMap<SqlText, readonly TextToken[]>();

export function tokensIn(sql: SqlText): readonly TextToken[] {
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

/** The step with a parameter under another name in its text. */
function withNameInText<S extends TextStepParts>(step: S, from: string, to: string): S {
  const { text, refs } = step.sql;
  const met = Object.fromEntries(Object.entries(step.met).map(([name, types]) => [name === from ? to : name, types]));
  return {
    ...step,
    met,
    sql: { text: renamedIn(text, tokensOf(text), from, to), refs: refs.map((each) => (each.name === from ? { ...each, name: to } : each)) },
  };
}

/** The fields a text gives, as its source described them. */
function schemaOfText(step: TextStepParts, { zone }: Calendar): Schema {
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

/** What became of the fields of a text, in words. */
function fieldsSentence(from: readonly SqlField[], to: readonly SqlField[], title: string): string {
  const added = to.filter((each) => !from.some((old) => old.id === each.id)).length;
  const gone = from.filter((each) => !to.some((now) => now.id === each.id)).length;
  const some = (count: number) => `${count} field${count === 1 ? '' : 's'}`;
  if (added > 0 && gone > 0) return `took over ${some(added)} of ${title} and let go of ${some(gone)}`;
  if (added > 0) return `took over ${some(added)} of ${title}`;
  return gone > 0 ? `let go of ${some(gone)} of ${title}` : `took over the fields of ${title} as they are now`;
}

/** The parameters statements ask with, each with the words for what it is compared with at its first place. */
export function mentionsIn(
  statements: readonly TextStatement[],
  parameters: readonly Parameter[],
): readonly { readonly parameter: string; readonly words: string }[] {
  const ids = new Map(parameters.map((each) => [each.name, each.id]));
  const seen = new Set<string>();
  return statements.flatMap((statement) => {
    const tokens = saying(statement.tokens);
    return placesIn(statement.tokens).flatMap((place) => {
      const parameter = ids.get(place.name);
      if (parameter === undefined || seen.has(place.name)) return [];
      seen.add(place.name);
      return [{ parameter, words: comparedWith(tokens, place) ?? place.name }];
    });
  });
}

/** What a parameter is compared with, in the text's own words: the name before its operator. */
function comparedWith(tokens: TextStatement['tokens'], place: ParameterPlace): string | undefined {
  const at = tokens.findIndex((each) => each.from === place.written.from);
  const before = tokens[at - 1];
  const operator = before?.kind === 'operator' || isWord(before, 'like', 'ilike');
  const own = operator || place.written.from !== place.from ? at - (operator ? 2 : 1) : undefined;
  // A type it is cast to says nothing of what it is.
  const name = own === undefined || tokens[own - 1]?.kind === 'colons' ? undefined : tokens[own];
  return isWord(name, 'and', 'or', 'not', 'where', 'on') ? undefined : nameOf(name);
}

/**
 * What kinds of steps share whose rows come of a text; `what` is the text in words that follow “from the”. Each adds what its
 * text is: one statement or several.
 */
export const textKind = <S extends StepBase & TextStepParts & { readonly called?: RowWords }>(what: string) => ({
  inputs: NO_INPUT,
  properties: {
    sql: ({ title }) => `changed the text of ${title}`,
    fields: ({ from, to, title }) => fieldsSentence(from as readonly SqlField[], to as readonly SqlField[], title),
    met: ({ title }) => `took over what the parameters of ${title} meet`,
    key: ({ title }) => `said which fields tell rows of ${title} apart`,
    called: ({ to, title }) =>
      to === undefined ? `took back what rows of ${title} are called` : `called the rows of ${title} ${(to as RowWords).rows}`,
    letBe: ({ from, to, title }) => letBeSentence(from as readonly LetBe[] | undefined, to as readonly LetBe[] | undefined, title),
    source: ({ title }) => `pointed ${title} to another source`,
  } satisfies Record<string, (change: PropertyChange) => string>,
  lists: {},
  mints: (step: S) => step.fields.map((each) => each.id),
  sources: (step: S) => [step.source],
  carries: () => undefined,
  origin: (step: S, field: string) => {
    const found = step.fields.find((each) => each.id === field);
    return found && { fields: [], how: `comes as ${found.column} from the ${what}` };
  },
  unasked: () => undefined,
  order: () => 'as it comes' as const,
  rows: (): never => {
    throw new RangeError(`what a ${what} means is its source’s to say`);
  },
  counted: { by: 'a statement of its own' } as const,
  followed: (): never => {
    throw new RangeError(`nothing arrives at a ${what}`);
  },
  written: () => [],
  uses: (step: S, parameters: readonly Parameter[]) =>
    parametersNamed(step.sql, parameters).map((each) => ({ kind: 'parameter' as const, id: each.id })),
  renamed: (step: S, kind: string, of: string, name: string) => {
    const refs = kind === 'parameter' ? step.sql.refs.filter((each) => each.parameter === of) : [];
    return refs.reduce<S>((now, ref) => withNameInText(now, ref.name, name), step);
  },
  fieldName: () => undefined,
  withFieldNamed: (step: S) => step,
});

/** The rows of a text: its fields, and what one row stands for, with what tells them apart where that was said. */
export function givenByText(step: TextStepParts & { readonly called?: RowWords }, calendar: Calendar, what: string) {
  const words = step.called ?? { row: `row of the ${what}`, rows: `rows of the ${what}` };
  const key = step.key.filter((each) => step.fields.some((field) => field.id === each));
  return { schema: schemaOfText(step, calendar), grain: { ...words, keys: key.length > 0 ? [key] : [] } };
}

/** The step with every id of its own exchanged. */
export const textWithIds = <S extends TextStepParts>(step: S, idOf: (id: string) => string): S => ({
  ...step,
  id: idOf(step.id),
  sql: { ...step.sql, refs: step.sql.refs.map((each) => ({ ...each, parameter: idOf(each.parameter) })) },
  fields: step.fields.map((each) => ({ ...each, id: idOf(each.id) })),
  key: step.key.map(idOf),
});
