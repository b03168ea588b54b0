import { z } from 'zod';
import { idShape } from '../ids';
import type { Layout } from '../grouping';
import { layoutShape, PLAIN_LAYOUT, withLevels } from '../grouping';
import type { FieldId } from '../fields';
import type { Parameter } from '../parameters';
import { parameterShape, parameterWithoutValues } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { SheetEntry } from '../sheet';
import { sheetEntryShape } from '../sheet';
import type { Step } from '../steps';
import { kindOf, stepShape } from '../steps';
import type { Calendar } from '../values';
import { COMMON_CALENDAR, isZone } from '../values';
import type { Brief } from './brief';
import { briefShape, NO_BRIEF } from './brief';
import type { WatchedFigure } from './watched';
import { watchedShape } from './watched';

export const DEFINITION_VERSION = 5;

/** A dataset as it is stored and sent: plain JSON, changed only by edits. */
export interface Definition {
  readonly version: typeof DEFINITION_VERSION;
  readonly title: string;
  readonly description: string;
  readonly tags: readonly string[];
  /** Each stands behind the steps it takes rows from; their order says nothing else. */
  readonly steps: readonly Step[];
  /** The step whose rows are handed over; null while there is none. */
  readonly result: string | null;
  readonly parameters: readonly Parameter[];
  /** How weeks, years and seasons are counted. */
  readonly calendar: Calendar;
  /** What is said of the fields that are handed over. */
  readonly sheet: readonly SheetEntry[];
  /** Fields in the order they are handed over; those it does not name come behind. */
  readonly order: readonly FieldId[];
  readonly brief: Brief;
  /** How the proof reads the result. */
  readonly proof: Layout;
  /** Figures told at every step; left out where none is. */
  readonly watched?: readonly WatchedFigure[];
  /** The language whose order people read texts in; English where it is left out. */
  readonly language?: Language;
}

/** Languages, as BCP 47 names them, in whose order texts can be shown (collation of CLDR). */
export const LANGUAGES = [
  'en',
  'cs',
  'da',
  'de',
  'es',
  'et',
  'fi',
  'fr',
  'hr',
  'hu',
  'it',
  'lt',
  'lv',
  'nb',
  'nl',
  'pl',
  'pt',
  'ro',
  'sk',
  'sl',
  'sv',
  'tr',
] as const;
export type Language = (typeof LANGUAGES)[number];

export const languageOf = ({ language }: Pick<Definition, 'language'>): Language => language ?? 'en';

export const languageShape = z.enum(LANGUAGES);

export const calendarShape = z.strictObject({
  firstDayOfWeek: z.int().min(1).max(7),
  firstMonthOfYear: z.int().min(1).max(12),
  firstMonthOfSeason: z.int().min(1).max(12),
  lastMonthOfSeason: z.int().min(1).max(12),
  zone: z.string().max(64).refine(isZone, 'a time zone, such as Europe/Vienna').optional(),
}) as z.ZodType<Calendar>;

export const tagsShape: z.ZodType<readonly string[]> = z.array(z.string().min(1).max(40)).max(20);

const shape: z.ZodType<Definition> = z.strictObject({
  version: z.literal(DEFINITION_VERSION),
  title: z.string().max(200),
  description: z.string().max(5_000),
  tags: tagsShape,
  steps: z.array(stepShape).max(200),
  result: idShape.nullable(),
  parameters: z.array(parameterShape).max(200),
  calendar: calendarShape,
  sheet: z.array(sheetEntryShape).max(5_000),
  order: z.array(idShape).max(5_000),
  brief: briefShape,
  proof: layoutShape,
  watched: watchedShape.optional(),
  language: languageShape.optional(),
}) as unknown as z.ZodType<Definition>;

export type ReadDefinition = { readonly definition: Definition } | { readonly problems: readonly Problem[] };

const NOTHING_SAID = { description: '', tags: [], sheet: [], order: [], brief: NO_BRIEF, proof: PLAIN_LAYOUT } as const;

export function emptyDefinition(title: string): Definition {
  return { version: DEFINITION_VERSION, title, steps: [], result: null, parameters: [], calendar: COMMON_CALENDAR, ...NOTHING_SAID };
}

/** Migrations by the version they lead away from. Each takes the document one version on. */
const MIGRATIONS: Readonly<Record<number, (document: Record<string, unknown>) => Record<string, unknown>>> = {
  1: (document) => ({ ...document, version: 2, calendar: COMMON_CALENDAR }),
  2: (document) => ({ ...document, version: 3, calendar: { ...COMMON_CALENDAR, ...(document.calendar as Partial<Calendar>) } }),
  3: (document) => ({ ...document, version: 4, ...NOTHING_SAID }),
  4: (document) => {
    const steps = (document.steps as readonly Record<string, unknown>[] | undefined) ?? [];
    const keyed = steps.map((step) => (step.kind === 'table' ? { ...step, keys: [] } : step));
    return { ...document, version: 5, steps: keyed, result: steps.at(-1)?.id ?? null };
  },
};

/** Reads a stored or received document: older versions are migrated, newer ones and broken ones refused with pointers. */
export function readDefinition(document: unknown): ReadDefinition {
  if (typeof document !== 'object' || document === null || Array.isArray(document)) {
    return { problems: [problem('definition-broken', 'This is no dataset definition.', { pointer: '' }, 'a JSON object')] };
  }
  const migrated = migrate(document as Record<string, unknown>);
  if ('problems' in migrated) return migrated;
  const parsed = shape.safeParse(migrated.document);
  if (!parsed.success) return { problems: parsed.error.issues.slice(0, 50).map(issueProblem) };
  const problems = consistency(parsed.data);
  return problems.length > 0 ? { problems } : { definition: parsed.data };
}

function migrate(
  document: Record<string, unknown>,
): { readonly document: Record<string, unknown> } | { readonly problems: readonly Problem[] } {
  const { version } = document;
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1) {
    return {
      problems: [
        problem(
          'definition-broken',
          'The definition has no version.',
          { pointer: '/version' },
          `a whole number up to ${DEFINITION_VERSION}`,
        ),
      ],
    };
  }
  if (version > DEFINITION_VERSION) {
    return {
      problems: [
        problem(
          'definition-newer',
          `The definition has version ${version}, made by a newer Cendra.`,
          { pointer: '/version' },
          `version ${DEFINITION_VERSION} or older`,
        ),
      ],
    };
  }
  let current = document;
  for (let from = version; from < DEFINITION_VERSION; from++) current = MIGRATIONS[from]?.(current) ?? current;
  return { document: current };
}

function issueProblem(issue: z.core.$ZodIssue): Problem {
  const pointer = issue.path.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
  return problem('definition-broken', `The definition is broken at ${pointer || 'its root'}.`, { pointer }, issue.message);
}

/** Ids are unique, inputs exist and stand before the steps that use them, so there is no cycle. An empty slot is no such break. */
function consistency(definition: Definition): readonly Problem[] {
  const problems: Problem[] = [];
  const seen = new Set<string>();
  definition.steps.forEach((step, index) => {
    const pointer = `/steps/${index}`;
    const broken = (message: string, at = '/inputs', expected?: string) =>
      problems.push(problem('definition-broken', message, { pointer: `${pointer}${at}`, step: step.id }, expected));
    if (seen.has(step.id)) broken('Two steps share one id.', '');
    const { most } = kindOf(step).inputs;
    if (step.inputs.length > most) broken(`A ${step.kind} step has ${step.inputs.length} inputs.`, '/inputs', `at most ${most}`);
    if (step.inputs.at(-1) === null) broken('The last input of a step is empty.', '/inputs', 'inputs without empty ones at their end');
    if (step.inputs.some((each) => each !== null && !seen.has(each))) broken('A step uses rows of a step that does not stand before it.');
    seen.add(step.id);
  });
  if (definition.result === null ? definition.steps.length > 0 : !seen.has(definition.result))
    problems.push(problem('definition-broken', 'No step is handed over.', { pointer: '/result' }, 'the id of one of the steps'));
  problems.push(...sharedFieldIds(definition));
  const told = definition.sheet.map((each) => each.field);
  if (new Set(told).size < told.length)
    problems.push(problem('definition-broken', 'The field sheet has a field twice.', { pointer: '/sheet' }));
  const names = definition.parameters.map((each) => each.name);
  const ids = definition.parameters.map((each) => each.id);
  if (new Set(names).size < names.length)
    problems.push(
      problem('parameter-name-taken', 'Two parameters share one name.', { pointer: '/parameters' }, 'a name of its own for each'),
    );
  if (new Set(ids).size < ids.length)
    problems.push(problem('definition-broken', 'Two parameters share one id.', { pointer: '/parameters' }));
  return problems;
}

/** A field's id is minted once; a second one would stand for two things. */
function sharedFieldIds(definition: Definition): readonly Problem[] {
  const seen = new Set<string>();
  return definition.steps.flatMap((step, index) =>
    kindOf(step)
      .mints(step)
      .flatMap((id) => {
        const shared = seen.has(id);
        seen.add(id);
        return shared
          ? [problem('definition-broken', 'Two fields share one id.', { pointer: `/steps/${index}`, step: step.id, field: id })]
          : [];
      }),
  );
}

/** Sources the steps read from, with those of the datasets they stand on and of tables that choices come from. */
export function sourcesOf(
  { steps, parameters = [] }: { readonly steps: readonly Step[]; readonly parameters?: readonly Parameter[] },
  ofDataset: (dataset: string) => readonly string[] = () => [],
): readonly string[] {
  const offered = parameters.flatMap(({ choices }) => (choices?.from === 'table' ? [choices.table.source] : []));
  return [...new Set([...steps.flatMap((step) => kindOf(step).sources(step, ofDataset)), ...offered])];
}

/** The definition's shape without any value typed into it, for those who lack a source. */
export function withoutValues(definition: Definition): Definition {
  return {
    ...definition,
    steps: definition.steps.map((step) => kindOf(step).withoutValues(step)),
    parameters: definition.parameters.map(parameterWithoutValues),
    brief: NO_BRIEF,
    proof: withoutWords({ ...withoutLists(definition.proof), marks: [] }),
  };
}

/** Values are typed into an order that is written. */
const withoutLists = (proof: Layout): Layout => withLevels(proof, ({ listed: _listed, ...level }) => level);

/** They are typed by hand, and may hold anything. */
const withoutWords = ({ title: _title, subtitle: _subtitle, note: _note, ...proof }: Layout): Layout => proof;
