import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Binding, Parameter } from '../parameters';
import type { ScriptPart } from '../sql';
import type { TextStatement } from '../statements';
import { metByStatement, statementsIn, tablesIn, writtenAt } from '../statements';
import { describedRows } from './described-rows';
import type { StepKind } from './kind';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import { sqlFieldShape } from './sql-fields';
import { parameterProblems, textProblems } from './sql-problems';
import type { StepBase } from './step';
import { stepBase } from './step';
import type { SqlText, TextStepParts } from './text-step';
import { givenByText, letBeShape, mentionsIn, metShape, parametersNamed, sqlTextShape, textKind, textWithIds, tokensIn } from './text-step';

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

const TEXT = textKind<ScriptStep>('script');

export const scriptKind: StepKind<ScriptStep, CheckedScript> = {
  kind: 'script',
  ...TEXT,
  shape,
  properties: {
    ...TEXT.properties,
    tempKeys: ({ title }) => `said what tells rows of a temp table of ${title} apart`,
  },
  check: (step, _arriving, context) => {
    const statements = statementsIn(tokensIn(step.sql));
    const parameters = parametersNamed(step.sql, context.parameters);
    const many = statements.length > STATEMENTS_MOST;
    return {
      ...givenByText(step, context.calendar, 'script'),
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
  relation: ({ step, schema, title, checked }, _inputs, binding) => {
    const parts = scriptParts(step, checked, binding);
    const last = parts.at(-1);
    if (!last) throw new RangeError('a script without a statement does not run');
    const rows = describedRows(
      step,
      schema,
      title,
      last.parts.map(({ part }) => part),
    );
    return { ...rows, site: { kind: 'session', source: step.source, session: step.id }, before: parts.slice(0, -1) };
  },
  withIds: textWithIds,
  withoutValues: ({ letBe: _letBe, ...step }) => ({ ...step, sql: { text: '', refs: [] }, met: {} }),
};

/** All statements of a script in their order, with values where its parameters stand. */
export function scriptParts(
  step: TextStepParts,
  { statements, parameters }: CheckedScript,
  binding: Pick<Binding, 'bound' | 'blanks'>,
): readonly ScriptPart[] {
  const met = metByStatement(step.met, statements);
  return statements.map((statement, at) => ({
    number: at + 1,
    from: statement.from,
    to: statement.to,
    parts: writtenAt(step.sql.text, statement, parameters, met[at] ?? {}, binding),
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
