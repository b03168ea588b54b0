import type {
  Binding,
  ClauseCounts,
  Column,
  Definition,
  Inspection,
  Language,
  Plan,
  Question,
  QuestionContext,
  ReadDefinition,
  Relation,
  ScriptStatement,
  ShownBy,
  StepCount,
  TrailOutline,
  WantedRows,
  WireRow,
} from '@cendra/core';
import {
  beginQuestion,
  checkedOf,
  checkedStep,
  compileScript,
  countsFrom,
  columnsOf,
  inspectedRows,
  languageOf,
  outlineOf,
  outputColumns,
  planCounts,
  planRelation,
  planRows,
  readDefinition,
  refuse,
  relationAfter,
  scriptParts,
  scriptsBefore,
  shortened,
  shownOrder,
  stageGroup,
  subTrail,
  valueOf,
} from '@cendra/core';
import { dialectsOf } from './dialects';
import type { Edited } from './editing';
import { edited } from './editing';
import { routineToMake } from './routine-to-make';
import type { StatementMade, StatementWanted } from './statements';
import { statementMade } from './statements';
import type { Subject } from './subject';
import { trailOf } from './subject';

/** Rows that planning needs before it can go on: of a plan, few enough to be texts. */
export interface Asked {
  readonly plan: Plan;
  /** Lists that are no parameter's. */
  readonly bound?: Binding['bound'];
  /** Only how many rows the source expects: one row with that number, or none. */
  readonly expected?: true;
}

/** Planning says which rows it needs, is given them, and ends with what it was asked for: plain data, as all it takes. */
export type Planning<A> = Generator<Asked, A, readonly WireRow[]>;

/** A subject with values, and of which kind its sources are. */
export interface Given {
  readonly subject: Subject;
  readonly binding: Binding;
  readonly kinds: Readonly<Record<string, string>>;
}

export interface Counted {
  readonly counts: readonly StepCount[];
  /** Of the step itself, where it is one of criteria. */
  readonly clauses: ClauseCounts | undefined;
}

export interface RowsWanted extends Given {
  readonly step: string;
  /** What is looked at instead of the step's rows. */
  readonly inspection: Inspection | undefined;
  readonly most: number | undefined;
  /** So much of each text, and how long it is beside it; left out, all of it. */
  readonly characters: number | undefined;
}

export interface RowsPlan {
  readonly plan: Plan;
  /** What the rows have; of a text that is shortened the plan has the beginning and the length in their stead. */
  readonly columns: readonly Column[];
  /** The order they are shown in, where the trail says one. */
  readonly shown?: ShownRows;
}

/** Rows in the order of the dataset: by columns of the plan, of which some are there for the order only. */
export interface ShownRows {
  readonly by: readonly ShownBy[];
  readonly language: Language;
  readonly hidden: readonly Column[];
}

/** A statement of one of a subject's plans. */
export interface StatementOfPlan extends StatementWanted {
  readonly kinds: Given['kinds'];
  /** Whether the subject is. */
  readonly heavy: boolean;
}

/** Of so many steps it is asked how many rows are expected: those before the one that is looked at. */
const EXPECTED_MOST = 12;

export interface Expectation {
  readonly step: string;
  readonly plan: Plan;
}

export interface Answerable extends Given {
  readonly others: ReadonlyMap<string, Pick<Given, 'subject' | 'binding'>>;
  readonly question: Question;
}

/** Work that needs no rows. */
function atOnce<G, A>(work: (given: G) => A): (given: G) => Planning<A> {
  return function* (given) {
    yield* [];
    return work(given);
  };
}

/** All that is done about a definition and may take long. It throws a ProblemError for what does not fit. */
export const WORK = {
  outline: atOnce(({ subject }: Pick<Given, 'subject'>): TrailOutline => outlineOf(trailOf(subject))),

  /** Whether an inspection fits, before anything runs. */
  inspect: atOnce(({ subject, binding, step, inspection }: Given & { readonly step: string; readonly inspection: Inspection }) => {
    inspectedRows(trailOf(subject), step, inspection, binding);
    return true;
  }),

  rows: atOnce(({ subject, binding, kinds, step, inspection, most, characters }: RowsWanted): RowsPlan => {
    const trail = trailOf(subject);
    if (inspection) {
      const { relation, columns, limit } = inspectedRows(trail, step, inspection, binding);
      return rowsPlan(relation, columns, limit ?? most, characters, kinds);
    }
    const columns = outputColumns(trail, step);
    if (columns.length === 0) refuse('nothing-taken', 'No field is chosen yet.', { step }, 'at least one field taken in the table step');
    const relation = relationAfter(trail, step, binding);
    const by = shownOrder(trail, step);
    if (by.length === 0) return rowsPlan(relation, columns, most, characters, kinds);
    const hidden = columnsOf(relation).filter(({ id }) => by.some(({ field }) => field === id) && !columns.some((each) => each.id === id));
    const shown = { by, hidden, language: languageOf(trail.definition) };
    return { ...rowsPlan(relation, [...columns, ...hidden], most, characters, kinds, by), columns, shown };
  }),

  read: atOnce(({ document }: { readonly document: unknown; readonly heavy: boolean }): ReadDefinition => readDefinition(document)),

  edit: atOnce(
    ({ definition, edits }: { readonly definition: Definition; readonly edits: readonly object[]; readonly heavy: boolean }): Edited =>
      edited(definition, edits),
  ),

  statement: atOnce(({ kinds, ...wanted }: StatementOfPlan): StatementMade => statementMade(wanted, dialectsOf(kinds)(wanted.site))),

  /** The statements of a script, as its source runs them, behind those of the scripts it goes on from. */
  script: atOnce(({ subject, binding, kinds, step }: Given & { readonly step: string }): readonly ScriptStatement[] => {
    const trail = trailOf(subject);
    const script = checkedOf('script', checkedStep(trail, step));
    if (!script) return refuse('step-gone', 'There is no such script in the dataset.', { step });
    const dialect = dialectsOf(kinds)({ kind: 'source', source: script.step.source });
    const before = scriptsBefore(trail.definition, script.step).flatMap(({ id }) => checkedOf('script', checkedStep(trail, id)) ?? []);
    return [...before, script].flatMap((each) =>
      compileScript(each.step.id, scriptParts(each.step, each.checked, binding), dialect, binding),
    );
  }),

  /** A text as a function of its source, and for each of some values the statements that give the rows of both. */
  routine: atOnce(routineToMake),

  /** The steps up to one, each as a plan of its rows, of which sources can be asked what they expect. */
  expectations: atOnce(({ subject, binding, kinds, step }: Given & { readonly step: string }): readonly Expectation[] => {
    const trail = trailOf(subject);
    return subTrail(trail.definition, step)
      .slice(-EXPECTED_MOST)
      .map(({ id }) => ({
        step: id,
        plan: planRows(relationAfter(trail, id, binding), outputColumns(trail, id), undefined, dialectsOf(kinds)),
      }));
  }),

  *counts({ subject, binding, kinds, step }: Given & { readonly step: string }): Planning<Counted> {
    const trail = trailOf(subject);
    const dialects = dialectsOf(kinds);
    const counting = planCounts(trail, step, binding);
    const groups = [];
    for (const segment of counting.segments) {
      const rows = yield { plan: planRelation(segment.relation, dialects) };
      groups.push(rows.map((row) => stageGroup(segment, row)));
    }
    const distinct = [];
    for (const { relation } of counting.distinct) distinct.push((yield { plan: planRelation(relation, dialects) })[0] ?? []);
    const failed = [];
    for (const { relation } of counting.failed) failed.push((yield { plan: planRelation(relation, dialects) })[0] ?? []);
    const criteria = checkedOf('criteria', checkedStep(trail, step));
    const asks = criteria && !criteria.step.off;
    const clauses = asks
      ? yield* planned(beginQuestion({ trail, binding, others: new Map() }, { kind: 'clauses', step }), kinds)
      : undefined;
    return { counts: countsFrom(counting, groups, distinct, failed), clauses };
  },

  *answer({ subject, binding, kinds, others, question }: Answerable): Planning<object> {
    const known = [...others].map(([id, other]) => [id, { trail: trailOf(other.subject), binding: other.binding }] as const);
    const context: QuestionContext = { trail: trailOf(subject), binding, others: new Map(known) };
    return yield* planned(beginQuestion(context, question), kinds);
  },
};

export type WorkName = keyof typeof WORK;
export type WorkGiven<W extends WorkName> = Parameters<(typeof WORK)[W]>[0];
export type WorkAnswer<W extends WorkName> = ReturnType<(typeof WORK)[W]> extends Planning<infer A> ? A : never;

function rowsPlan(
  relation: Relation,
  columns: readonly Column[],
  most: number | undefined,
  characters: number | undefined,
  kinds: Given['kinds'],
  by: readonly ShownBy[] = [],
): RowsPlan {
  // The first rows are the first by the order, told by whole texts.
  const arrived = new Map(columnsOf(relation).map((each) => [each.id, each]));
  const order = by.flatMap(({ field, ...how }) => {
    const column = arrived.get(field);
    return column ? [{ of: valueOf(column), ...how }] : [];
  });
  const first: Relation = most === undefined || order.length === 0 ? relation : { node: 'limit', input: relation, count: most, order };
  const cut = characters === undefined ? { relation: first, columns } : shortened(first, columns, characters);
  return { plan: planRows(cut.relation, cut.columns, first === relation ? most : undefined, dialectsOf(kinds)), columns };
}

/** A question's rows as plans. */
function* planned<A>(question: Generator<WantedRows, A, readonly WireRow[]>, kinds: Given['kinds']): Planning<A> {
  const dialects = dialectsOf(kinds);
  let next = question.next();
  while (!next.done) {
    const { relation, columns, limit, bound, expected } = next.value;
    const plan = planRows(relation, columns, limit, dialects);
    next = question.next(yield { plan, ...(bound ? { bound } : {}), ...(expected ? { expected } : {}) });
  }
  return next.value;
}
