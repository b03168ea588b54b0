import { z } from 'zod';
import { idShape as id } from '../ids';
import type { Parameter } from '../parameters';
import type { TextStatement, TypesMet } from '../statements';
import { renamedIn, statementsIn, tablesIn, tokensOf, writtenWith } from '../statements';
import { describedRows } from './described-rows';
import type { StepKind } from './kind';
import { parameterProblems, textProblems } from './sql-problems';
import type { RowWords } from './row-words';
import { rowWordsShape } from './row-words';
import type { SqlField } from './sql-fields';
import { describedShape, sqlFieldShape } from './sql-fields';
import type { StepBase } from './step';
import { stepBase } from './step';
import type { SqlText, TextStepParts } from './text-step';
import {
  givenByText,
  letBeShape,
  mentionsIn,
  metShape,
  parametersNamed,
  sqlTextShape,
  TEXT_MOST,
  textKind,
  textWithIds,
  tokensIn,
} from './text-step';

/** One statement of an analyst's, run in a source as it stands. */
export interface SqlStep extends StepBase, Omit<TextStepParts, 'id'> {
  readonly kind: 'sql';
  readonly called?: RowWords;
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
  /** The part of the text that is swept, as it stands in it; left out where all of it is. */
  readonly part?: string;
}

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
  sql: sqlTextShape,
  fields: z.array(sqlFieldShape).max(2_000),
  met: metShape,
  key: z.array(id).max(64),
  called: rowWordsShape.optional() as z.ZodType<RowWords>,
  letBe: letBeShape,
  sweeps: z
    .array(
      z.strictObject({
        id,
        name: z.string().min(1).max(100),
        parameter: id,
        values: z.string().max(10_000),
        fields: z.array(id).max(6),
        part: z.string().min(1).max(10_000).optional(),
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

const TEXT = textKind<SqlStep>('text');

export const sqlKind: StepKind<SqlStep, CheckedSql> = {
  kind: 'sql',
  ...TEXT,
  shape,
  properties: {
    ...TEXT.properties,
    sweeps: ({ from, to, title }) => {
      const [before, now] = [from, to].map((each) => (each as readonly KeptSweep[] | undefined) ?? []) as [
        readonly KeptSweep[],
        readonly KeptSweep[],
      ];
      const kept = now.find((each) => !before.some(({ id: known }) => known === each.id));
      return kept ? `kept the sweep ${kept.name} of ${title}` : `changed the sweeps kept with ${title}`;
    },
    kept: ({ from, to, title }) => {
      const [before, now] = [from, to] as [FromShelf | undefined, FromShelf | undefined];
      if (!now) return `let ${title} be a text of its own`;
      return before?.text === now.text ? `took version ${now.version} of its kept text for ${title}` : `took a kept text for ${title}`;
    },
  },
  check: (step, _arriving, context) => {
    const tokens = tokensIn(step.sql);
    const statements = statementsIn(tokens);
    const parameters = parametersNamed(step.sql, context.parameters);
    const [statement] = statements;
    return {
      ...givenByText(step, context.calendar, 'text'),
      problems: [...textProblems(step, statements, 1), ...(statement ? parameterProblems(step, statement, parameters) : [])],
      checked: { statement, parameters },
    };
  },
  sentence: (step) => {
    const tables = [...new Set(tablesIn(tokensIn(step.sql)).map((each) => each.table))];
    return tables.length === 0
      ? 'SQL'
      : `SQL over ${tables.slice(0, 3).join(', ')}${tables.length > 3 ? ` and ${tables.length - 3} more` : ''}`;
  },
  mentions: ({ checked: { statement, parameters } }) => mentionsIn(statement ? [statement] : [], parameters),
  relation: ({ step, schema, title, checked: { statement, parameters } }, _inputs, binding) => {
    if (!statement) throw new RangeError('a text without a statement does not run');
    return describedRows(step, schema, title, writtenWith(step.sql.text, statement, parameters, step.met, binding));
  },
  withIds: (step, idOf) => ({
    ...textWithIds(step, idOf),
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
  renamed: (step, kind, of, name) => {
    const now = TEXT.renamed(step, kind, of, name);
    const ref = kind === 'parameter' ? step.sql.refs.find((each) => each.parameter === of) : undefined;
    if (!ref || !now.sweeps) return now;
    const renamed = (part: string) => renamedIn(part, tokensOf(part), ref.name, name);
    return { ...now, sweeps: now.sweeps.map((each) => (each.part === undefined ? each : { ...each, part: renamed(each.part) })) };
  },
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
