import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Binding, Parameter } from '../parameters';
import type { ScriptPart } from '../sql';
import type { TextStatement } from '../statements';
import { metBehind, statementsIn, tablesIn, writtenAt, writtenWith } from '../statements';
import { describedRows } from './described-rows';
import type { PropertyChange, StepKind } from './kind';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { SqlField } from './sql-fields';
import { sqlFieldShape } from './sql-fields';
import { parameterProblems, textProblems } from './sql-problems';
import type { StepBase } from './step';
import { NO_INPUT, stepBase } from './step';
import type { LetBe, SqlText, TextStepParts } from './text-step';
import {
  fieldsSentence,
  letBeSentence,
  letBeShape,
  mentionsIn,
  metShape,
  parametersNamed,
  schemaOfText,
  sqlTextShape,
  tokensIn,
  withNameInText,
} from './text-step';

/** So many statements a script has at most. */
export const STATEMENTS_MOST = 200;

/** Columns that tell the rows of a temp table apart, so that what a statement changed in it can be said row by row. */
export interface TempKey {
  readonly table: string;
  readonly columns: readonly string[];
}

/** Several statements of one session in a source, which may make, fill and change temp tables; the rows are those of the last. */
export interface ScriptStep extends StepBase, Omit<TextStepParts, 'id'> {
  readonly kind: 'script';
  readonly called?: RowWords;
  /** Left out where none is said. */
  readonly tempKeys?: readonly TempKey[];
}

const shape: z.ZodType<ScriptStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('script'),
  source: id,
  sql: sqlTextShape,
  fields: z.array(sqlFieldShape).max(2_000),
  met: metShape,
  key: z.array(id).max(64),
  called: rowWordsShape.optional() as z.ZodType<RowWords>,
  letBe: letBeShape,
  tempKeys: z
    .array(z.strictObject({ table: z.string().min(1).max(256), columns: z.array(z.string().min(1).max(256)).min(1).max(32) }))
    .max(100)
    .optional() as unknown as z.ZodType<readonly TempKey[]>,
});

/** The text read: its statements, of which the last gives the rows, and where its parameters stand. */
export interface CheckedScript {
  readonly statements: readonly TextStatement[];
  readonly parameters: readonly Parameter[];
}

export const scriptKind: StepKind<ScriptStep, CheckedScript> = {
  kind: 'script',
  inputs: NO_INPUT,
  shape,
  properties: {
    sql: ({ title }) => `changed the text of ${title}`,
    fields: ({ from, to, title }: PropertyChange) => fieldsSentence(from as readonly SqlField[], to as readonly SqlField[], title),
    met: ({ title }) => `took over what the parameters of ${title} meet`,
    key: ({ title }) => `said which fields tell rows of ${title} apart`,
    called: ({ to, title }) =>
      to === undefined ? `took back what rows of ${title} are called` : `called the rows of ${title} ${(to as RowWords).rows}`,
    letBe: ({ from, to, title }) => letBeSentence(from as readonly LetBe[] | undefined, to as readonly LetBe[] | undefined, title),
    tempKeys: ({ title }) => `said what tells rows of a temp table of ${title} apart`,
    source: ({ title }) => `pointed ${title} to another source`,
  },
  lists: {},
  mints: (step) => step.fields.map((each) => each.id),
  sources: (step) => [step.source],
  carries: () => undefined,
  origin: (step, field) => {
    const found = step.fields.find((each) => each.id === field);
    return found && { fields: [], how: `comes as ${found.column} from the script` };
  },
  check: (step, _arriving, context) => {
    const statements = statementsIn(tokensIn(step.sql));
    const parameters = parametersNamed(step.sql, context.parameters);
    const words = step.called ?? { row: 'row of the script', rows: 'rows of the script' };
    const key = step.key.filter((each) => step.fields.some((field) => field.id === each));
    const many = statements.length > STATEMENTS_MOST;
    return {
      schema: schemaOfText(step, context.calendar),
      grain: { ...words, keys: key.length > 0 ? [key] : [] },
      problems: [
        ...textProblems(step, statements, STATEMENTS_MOST),
        ...(many ? [] : statements.flatMap((each) => parameterProblems(step, each, parameters))),
      ],
      checked: { statements, parameters },
    };
  },
  sentence: (step) => {
    const statements = statementsIn(tokensIn(step.sql));
    const tables = [...new Set(statements.slice(-1).flatMap(({ tokens }) => tablesIn(tokens).map((each) => each.table)))];
    const of = tables.length === 0 ? '' : ` ending in ${tables.slice(0, 2).join(', ')}`;
    return statements.length === 0 ? 'Script' : `Script of ${statements.length} statement${statements.length === 1 ? '' : 's'}${of}`;
  },
  mentions: ({ checked: { statements, parameters } }) => mentionsIn(statements, parameters),
  unasked: () => undefined,
  order: () => 'as it comes',
  relation: ({ step, schema, title, checked }, _inputs, binding) => {
    const last = checked.statements.at(-1);
    if (!last) throw new RangeError('a script without a statement does not run');
    const before = scriptParts(step, checked, binding).slice(0, -1);
    const met = metBehind(step.met, checked.statements.slice(0, -1));
    const rows = describedRows(step, schema, title, writtenWith(step.sql.text, last, checked.parameters, met, binding));
    return { ...rows, site: { kind: 'session', source: step.source, session: step.id }, before };
  },
  rows: () => {
    throw new RangeError('what a script means is its source’s to say');
  },
  counted: { by: 'a statement of its own' },
  followed: () => {
    throw new RangeError('nothing arrives at a script');
  },
  written: () => [],
  uses: (step, parameters) => parametersNamed(step.sql, parameters).map((each) => ({ kind: 'parameter', id: each.id })),
  renamed: (step, kind, of, name) => {
    const refs = kind === 'parameter' ? step.sql.refs.filter((each) => each.parameter === of) : [];
    return refs.reduce<ScriptStep>((now, ref) => withNameInText(now, ref.name, name), step);
  },
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    sql: { ...step.sql, refs: step.sql.refs.map((each) => ({ ...each, parameter: idOf(each.parameter) })) },
    fields: step.fields.map((each) => ({ ...each, id: idOf(each.id) })),
    key: step.key.map(idOf),
  }),
  withoutValues: ({ letBe: _letBe, ...step }) => ({ ...step, sql: { text: '', refs: [] }, met: {} }),
};

/** All statements of a script in their order, with values where its parameters stand. */
export function scriptParts(
  step: TextStepParts,
  { statements, parameters }: CheckedScript,
  binding: Pick<Binding, 'bound' | 'blanks'>,
): readonly ScriptPart[] {
  return statements.map((statement, at) => ({
    number: at + 1,
    from: statement.from,
    to: statement.to,
    parts: writtenAt(step.sql.text, statement, parameters, metBehind(step.met, statements.slice(0, at)), binding),
  }));
}

/** A script with a text whose fields are not known yet. */
export const scriptStep = (mint: () => string, source: string, sql: SqlText): ScriptStep => ({
  id: mint(),
  kind: 'script',
  name: '',
  off: false,
  inputs: [],
  source,
  sql,
  fields: [],
  met: {},
  key: [],
});
