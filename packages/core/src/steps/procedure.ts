import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Field, Schema } from '../fields';
import { readIn, typeShape } from '../fields';
import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Calendar } from '../values';
import type { CallResult, Relation, ScriptPart } from '../sql';
import type { RoutineArgument, RoutineEntry, RoutineOut } from './catalogue';
import { describedRows } from './described-rows';
import type { PropertyChange, StepKind } from './kind';
import { quotedName } from '../statements';
import { blankPasses, CALLED, callOf } from './procedure-call';
import { argumentProblems, changedProblems } from './procedure-problems';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { SqlField } from './sql-fields';
import { sqlFieldShape } from './sql-fields';
import type { StepBase } from './step';
import { NO_INPUT, stepBase } from './step';

/** What an argument is given: a parameter, a value typed once, its default, or null. */
export type GivenArgument =
  | { readonly by: 'parameter'; readonly parameter: string }
  | { readonly by: 'value'; readonly value: string }
  | { readonly by: 'default' }
  | { readonly by: 'null' };

/** An argument as its source described it last, and what it is given. */
export interface BoundArgument extends RoutineArgument {
  readonly given: GivenArgument;
}

/** What a procedure only gives back by an argument, at its place among all of them; in the order of places. */
export interface CallOut {
  readonly name: string;
  readonly at: number;
}

/** What a function or procedure of a source gives, called with arguments. */
export interface ProcedureStep extends StepBase {
  readonly kind: 'procedure';
  readonly source: string;
  readonly schema: string;
  readonly routine: string;
  /** What tells it from others of its name. */
  readonly signature: string;
  readonly arguments: readonly BoundArgument[];
  /** What it gave when it was described, and which text it had then. */
  readonly gives: string;
  readonly body: string;
  /** Columns with their types, of a function that does not say which it gives. */
  readonly columns?: string;
  /** Of a procedure, which is called by a statement of its own. */
  readonly call?: readonly CallOut[];
  /** What is read of it; it is then called in a session of its own. Left out where its rows are selected from as they are. */
  readonly result?: CallResult;
  readonly fields: readonly SqlField[];
  /** Ids of the fields that are handed on, in their order; the others are for use only. */
  readonly taken: readonly string[];
  /** Fields that together tell its rows apart, said by the analyst; none where nothing is said. */
  readonly key: readonly string[];
  readonly called?: RowWords;
}

const givenShape: z.ZodType<GivenArgument> = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('parameter'), parameter: id }),
  z.strictObject({ by: z.literal('value'), value: z.string().max(10_000) }),
  z.strictObject({ by: z.literal('default') }),
  z.strictObject({ by: z.literal('null') }),
]);

/** It stands in a statement: a type's name and nothing else. */
const typeName = z
  .string()
  .max(300)
  .regex(/^(?:[\p{L}\p{N}_ .,()[\]]|"[^"]+")+$/u);

const argumentShape = z.strictObject({
  name: z.string().max(256),
  sourceType: typeName,
  type: typeShape,
  several: z.boolean(),
  startsAs: z.string().max(10_000).nullable(),
  given: givenShape,
});

const identifier = z.string().min(1).max(256);

/** Names and types, as `code text, kilos numeric(8,2)`: it stands in a statement as it is. */
const COLUMNS = /^[\p{L}_][\p{L}\p{N}_]* [\p{L}\p{N}_ .,()[\]]+$/u;

/** Whether a text says which columns a routine's records have, by names and types. */
export const saysColumns = (text: string): boolean => COLUMNS.test(text);

const shape: z.ZodType<ProcedureStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('procedure'),
  source: id,
  schema: identifier,
  routine: identifier,
  signature: z.string().min(1).max(3_000),
  arguments: z.array(argumentShape).max(100),
  gives: z.string().max(20_000),
  body: z.string().max(100),
  columns: z.string().max(5_000).regex(COLUMNS).optional() as unknown as z.ZodType<string>,
  call: z
    .array(z.strictObject({ name: z.string().max(256), at: z.int().min(0).max(200) }))
    .max(100)
    .optional() as unknown as z.ZodType<readonly CallOut[]>,
  result: z
    .discriminatedUnion('of', [
      z.strictObject({ of: z.literal('rows') }),
      z.strictObject({ of: z.literal('values') }),
      z.strictObject({ of: z.literal('cursor'), number: z.int().min(1).max(100), name: z.string().max(256) }),
    ])
    .optional() as unknown as z.ZodType<CallResult>,
  fields: z.array(sqlFieldShape).max(2_000),
  taken: z.array(id).max(2_000),
  key: z.array(id).max(64),
  called: rowWordsShape.optional() as z.ZodType<RowWords>,
});

interface CheckedProcedure {
  readonly parameters: readonly Parameter[];
}

export const procedureKind: StepKind<ProcedureStep, CheckedProcedure> = {
  kind: 'procedure',
  inputs: NO_INPUT,
  shape,
  properties: {
    arguments: argumentsSentence,
    fields: ({ title }) => `took over the columns of ${title} as they are now`,
    taken: ({ title }) => `changed which fields of ${title} are taken`,
    key: ({ title }) => `said which fields tell rows of ${title} apart`,
    gives: ({ title }) => `took over what ${title} gives now`,
    body: ({ title }) => `accepted ${title} as it is now`,
    call: ({ title }) => `took over what ${title} gives back`,
    result: ({ to, title }) => `reads ${resultWords(to as CallResult | undefined)} of ${title}`,
    columns: ({ to, title }) => `said which columns ${title} gives: ${String(to)}`,
    called: ({ to, title }) =>
      to === undefined ? `took back what rows of ${title} are called` : `called the rows of ${title} ${(to as RowWords).rows}`,
  },
  lists: {},
  mints: (step) => step.fields.map((each) => each.id),
  sources: (step) => [step.source],
  carries: () => undefined,
  origin: (step, field) => {
    const found = step.fields.find((each) => each.id === field);
    return found && { fields: [], how: `comes as ${found.column} from ${step.routine}` };
  },
  check: (step, _arriving, context) => {
    const words = step.called ?? { row: `row of ${step.routine}`, rows: `rows of ${step.routine}` };
    const key = step.key.filter((each) => step.fields.some((field) => field.id === each));
    return {
      schema: schemaOf(step, context.calendar),
      grain: { ...words, keys: key.length > 0 ? [key] : [] },
      problems: [...changedProblems(step, context.catalogue), ...argumentProblems(step, context.parameters), ...fieldProblems(step)],
      checked: { parameters: context.parameters },
    };
  },
  sentence: (step) => step.routine,
  mentions: ({ step }, parameters) =>
    step.arguments.flatMap((argument) => {
      const { name, given, type } = argument;
      if (given.by !== 'parameter') return [];
      const parameter = parameters.find((each) => each.id === given.parameter);
      const blank = parameter && blankPasses(argument, parameter);
      const words = name.replaceAll('_', ' ') || 'value';
      return [{ parameter: given.parameter, words, meets: type, ...(blank === undefined ? {} : { blank }) }];
    }),
  unasked: () => undefined,
  order: () => 'as it comes',
  relation: ({ step, schema, title, checked: { parameters } }, _inputs, binding) =>
    called(step, describedRows(step, schema, title, callOf(step, parameters, binding))),
  rows: () => {
    throw new RangeError('what a function gives is its source’s to say');
  },
  counted: { by: 'a statement of its own' },
  followed: () => {
    throw new RangeError('nothing arrives at a function');
  },
  written: () => [],
  uses: (step) => step.arguments.flatMap(({ given }) => (given.by === 'parameter' ? [{ kind: 'parameter', id: given.parameter }] : [])),
  renamed: (step) => step,
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    arguments: step.arguments.map((each) =>
      each.given.by === 'parameter' ? { ...each, given: { ...each.given, parameter: idOf(each.given.parameter) } } : each,
    ),
    fields: step.fields.map((each) => ({ ...each, id: idOf(each.id) })),
    taken: step.taken.map(idOf),
    key: step.key.map(idOf),
  }),
  withoutValues: (step) => ({
    ...step,
    arguments: step.arguments.map((each) =>
      each.given.by === 'value' ? { ...each, given: { by: 'null' }, startsAs: null } : { ...each, startsAs: null },
    ),
  }),
};

/** What is read of a call, in words. */
export function resultWords(result: CallResult | undefined): string {
  if (result?.of === 'values') return 'the values it gives back';
  return result?.of === 'cursor' ? `the rows of its cursor ${result.name || result.number}` : 'the rows';
}

/** Where the call is made in a session, its rows are those of the temp table they are kept in there, its columns in their places. */
function called({ id: session, source, result, signature }: ProcedureStep, rows: Relation & { node: 'text' }): Relation {
  if (!result) return rows;
  const call = { signature, result, into: CALLED, given: rows.given };
  const part: ScriptPart = { number: 1, from: 0, to: 0, parts: rows.parts.map((each) => ({ part: each, at: 0 })), call };
  return {
    ...rows,
    site: { kind: 'session', source, session },
    parts: [`select ${rows.given.map(({ column }, at) => `c${at + 1} as ${quotedName(column)}`).join(', ')} from ${CALLED}`],
    before: [part],
  };
}

/** A step that calls a function its source has described, each argument given nothing yet but its default. */
export function procedureStep(
  mint: () => string,
  source: string,
  { schema, name, signature, kind, arguments: taken, outs, gives, body }: RoutineEntry,
  result?: CallResult,
): ProcedureStep {
  return {
    id: mint(),
    kind: 'procedure',
    name: '',
    off: false,
    inputs: [],
    source,
    schema,
    routine: name,
    signature,
    arguments: taken.map((each) => ({ ...argumentOf(each), given: each.startsAs === null ? { by: 'null' } : { by: 'default' } })),
    gives,
    body,
    ...(kind === 'procedure' ? { call: callOuts(outs) } : {}),
    ...(result ? { result } : {}),
    fields: [],
    taken: [],
    key: [],
  };
}

/** What a procedure only gives back, in the order of places. */
export const callOuts = (outs: readonly RoutineOut[]): readonly CallOut[] =>
  outs
    .filter((each) => !each.taken)
    .map(({ name, at }) => ({ name, at }))
    .toSorted((a, b) => a.at - b.at);

/** Which of the arguments it takes name a cursor it gives back, counted from 0. */
export function cursorArguments({ arguments: taken, outs }: Pick<RoutineEntry, 'arguments' | 'outs'>): ReadonlySet<number> {
  const only = new Set(outs.filter((each) => !each.taken).map((each) => each.at));
  const places = Array.from({ length: taken.length + only.size }, (_each, at) => at).filter((at) => !only.has(at));
  return new Set(outs.flatMap(({ taken: both, cursor, at }) => (both && cursor ? [places.indexOf(at)] : [])));
}

/** What can be read of a routine; how many cursors one gives whose arguments do not say so is known once it ran. */
export function resultsOf({ kind, outs, cursors }: Pick<RoutineEntry, 'kind' | 'outs' | 'cursors'>): readonly CallResult[] {
  const named = outs.filter((each) => each.cursor);
  if (named.length > 0 || kind === 'procedure') {
    const values: readonly CallResult[] = outs.some((each) => !each.cursor) ? [{ of: 'values' }] : [];
    return [...values, ...named.map(({ name }, at): CallResult => ({ of: 'cursor', number: at + 1, name }))];
  }
  return cursors ? [{ of: 'cursor', number: 1, name: '' }] : [{ of: 'rows' }];
}

/** An argument and nothing more than is kept of it. */
export const argumentOf = ({ name, sourceType, type, several, startsAs }: RoutineArgument): RoutineArgument => ({
  name,
  sourceType,
  type,
  several,
  startsAs,
});

/** Taken fields first, in their order; the rest behind them, for use only. */
function schemaOf(step: ProcedureStep, { zone }: Calendar): Schema {
  const field = (each: SqlField, forUseOnly: boolean): Field => ({
    id: each.id,
    name: each.name,
    type: readIn(zone, each.type),
    role: each.role,
    origin: { step: step.id, column: each.column },
    forUseOnly,
  });
  const taken = step.taken.flatMap((own) => step.fields.find((each) => each.id === own) ?? []);
  const rest = step.fields.filter((each) => !step.taken.includes(each.id));
  return { fields: [...taken.map((each) => field(each, false)), ...rest.map((each) => field(each, true))] };
}

function fieldProblems(step: ProcedureStep): readonly Problem[] {
  if (step.fields.length > 0) return [];
  return [problem('routine-not-described', 'The source has not said yet which fields this function gives.', { step: step.id })];
}

function argumentsSentence({ from, to, title }: PropertyChange): string {
  const [before, now] = [from as readonly BoundArgument[], to as readonly BoundArgument[]];
  const at = now.findIndex((each, index) => JSON.stringify(each.given) !== JSON.stringify(before[index]?.given));
  const changed = now[at];
  if (!changed || before.length !== now.length) return `took over what ${title} takes now`;
  const name = changed.name || `argument ${at + 1}`;
  const { given } = changed;
  if (given.by === 'value') return `gave ${name} of ${title} the value ${given.value}`;
  return given.by === 'parameter'
    ? `gave ${name} of ${title} a parameter`
    : `gave ${name} of ${title} ${given.by === 'null' ? 'null' : 'its default'}`;
}
