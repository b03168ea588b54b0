import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Binding, Parameter } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Relation, ScriptPart } from '../sql';
import type { TextStatement } from '../statements';
import { metByStatement, statementsIn, tablesIn, writtenAt } from '../statements';
import { describedRows } from './described-rows';
import type { StepKind } from './kind';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import { sqlFieldShape } from './sql-fields';
import { parameterProblems, textProblems } from './sql-problems';
import type { Arriving, InputSlots, StepBase } from './step';
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

/** A script may stand on another one: it goes on in the session in which that has run. */
const GOES_ON: InputSlots = { least: 0, most: 1, role: () => 'script before' };

/** The text read: its statements, of which the last gives the rows, and where its parameters stand. */
export interface CheckedScript {
  readonly statements: readonly TextStatement[];
  readonly parameters: readonly Parameter[];
}

const TEXT = textKind<ScriptStep>('script');

export const scriptKind: StepKind<ScriptStep, CheckedScript> = {
  kind: 'script',
  ...TEXT,
  inputs: GOES_ON,
  shape,
  properties: {
    ...TEXT.properties,
    tempKeys: ({ title }) => `said what tells rows of a temp table of ${title} apart`,
  },
  check: (step, arriving, context) => {
    const statements = statementsIn(tokensIn(step.sql));
    const parameters = parametersNamed(step.sql, context.parameters);
    const many = statements.length > STATEMENTS_MOST;
    const before = step.inputs.length === 0 ? 0 : (arriving[0]?.session?.statements ?? 0);
    return {
      ...givenByText(step, context.calendar, 'script'),
      session: { source: step.source, statements: before + statements.length },
      problems: [
        ...sessionProblems(step, arriving, statements.length),
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
  relation: ({ step, schema, title, checked }, [first], binding) => {
    const parts = scriptParts(step, checked, binding);
    const last = parts.at(-1);
    if (!last) throw new RangeError('a script without a statement does not run');
    const rows = describedRows(
      step,
      schema,
      title,
      last.parts.map(({ part }) => part),
    );
    const before = first?.node === 'text' ? ranBy(first) : [];
    return { ...rows, site: { kind: 'session', source: step.source, session: step.id }, before: [...before, ...parts.slice(0, -1)], last };
  },
  withIds: (step, idOf) => ({ ...textWithIds(step, idOf), inputs: step.inputs.map((each) => each && idOf(each)) }),
  withoutValues: ({ letBe: _letBe, ...step }) => ({ ...step, sql: { text: '', refs: [] }, met: {} }),
};

/** What a script has run where another goes on behind it, each of its statements as one of its own. */
function ranBy({ step, before = [], last }: Relation & { node: 'text' }): readonly ScriptPart[] {
  return [...before, ...(last ? [last] : [])].map((each) => ({ ...each, of: each.of ?? step }));
}

/** What keeps a script from going on where it stands. */
function sessionProblems({ id: step, source, inputs }: ScriptStep, [first]: readonly Arriving[], own: number): readonly Problem[] {
  if (inputs.length === 0) return [];
  const place = { step, input: 0 };
  const expected = 'a script of the same source, or none';
  if (!first?.session) return [problem('session-none', 'A script goes on in the session of another one only.', place, expected)];
  if (first.session.source !== source)
    return [problem('session-elsewhere', 'The script before runs in another source, and its session ends there.', place, expected)];
  const all = first.session.statements + own;
  if (own > STATEMENTS_MOST || all <= STATEMENTS_MOST) return [];
  return [
    problem(
      'statements-several',
      `With what runs before there are ${all} statements in this session.`,
      place,
      `at most ${STATEMENTS_MOST}`,
    ),
  ];
}

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
