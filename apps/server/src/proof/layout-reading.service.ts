import { Injectable } from '@nestjs/common';
import type { AlsoAsked, Column, EveryValue, GivenValues, ReadLayout, TrailOutline } from '@cendra/core';
import {
  allLevels,
  alsoAsked,
  columnsOfValues,
  compile,
  duckdb,
  fittingLayout,
  parameterOfMark,
  readLayout,
  reportFields,
  spansAsked,
  spansOf,
  stretchColumns,
  withAlso,
  withMarkValues,
} from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import type { Person } from '../people';
import { Planner, subjectOf } from '../planning';
import { refused } from '../problems';
import { Recent } from '../recent';
import { AnswersService } from '../runs/answers.service';
import type { Result } from '../runs/result.entity';
import { isMarked } from '../runs/results.service';
import { RunRecordsService } from '../runs/run-records.service';
import { ResultRows, UNBOUND } from './result-rows.service';

export const MARKS_COLUMN = 'cendra_marks';
const MOST_KNOWN = 500;

/** Who reads which result, by which definition, and the values its rows were got with. */
interface Asking {
  readonly person: Person;
  readonly result: Result;
  readonly held: HeldDatasetOf;
  readonly values: GivenValues;
  readonly signal: AbortSignal;
}

/** A definition's proof as it reads one result: with what that has, the values its rows were got with, and groups without rows. */
@Injectable()
export class LayoutReading {
  /** Values of fields at steps, by result: what there was when its proof was first read. */
  private readonly values = new Recent<EveryValue['values']>(MOST_KNOWN);

  constructor(
    private readonly planner: Planner,
    private readonly records: RunRecordsService,
    private readonly answers: AnswersService,
    private readonly rows: ResultRows,
  ) {}

  /** The fields of a result that its definition hands over, and the proof's layout as far as they give it. */
  async read(person: Person, result: Result, held: HeldDatasetOf, signal: AbortSignal) {
    const { definition } = held;
    const outline = await this.planner.outline(subjectOf(definition, []), signal);
    const all = reportFields(outline);
    const stored = new Map(result.columns.map((each) => [each.id, each]));
    const fields = all.filter((each) => !each.forUseOnly && stored.has(each.id));
    if (fields.length === 0)
      throw refused(
        422,
        'nothing-handed-over',
        'No field of this result is handed over.',
        {},
        'at least one field that is not for use only',
      );
    const { proof, parameters } = definition;
    const fitting = fittingLayout(proof, fields, parameters);
    // What is marked is told by the values the rows were got with.
    const asks = fitting.marks.some(parameterOfMark) || allLevels(fitting).some((each) => each.also);
    const values = asks ? await this.records.valuesOf(result.id) : {};
    const read = readLayout(withMarkValues(fitting, parameters, values), fields, definition.calendar);
    const columns: readonly Column[] = [
      ...fields.map(({ id, name, type }) => ({ id, name, type })),
      ...(isMarked(result) ? [{ id: MARKS_COLUMN, name: MARKS_COLUMN, type: { kind: 'text' as const } }] : []),
      ...stretchColumns(read, definition.calendar),
    ];
    const layout = await this.withEmptyGroups({ person, result, held, values, signal }, outline, read, columns);
    return { fields: read.fields, stored, columns, layout };
  }

  /** The layout with the groups its levels have besides those there are rows of. */
  private async withEmptyGroups(
    asking: Asking,
    outline: TrailOutline,
    read: ReadLayout,
    columns: readonly Column[],
  ): Promise<ReadLayout['layout']> {
    const { person, result, held, values, signal } = asking;
    if (allLevels(read.layout).every((each) => !each.also)) return read.layout;
    const asked = spansAsked(read, columns);
    const [row = []] = asked ? await this.rows.looked(person, result, compile(asked, duckdb, UNBOUND), signal) : [];
    const { parameters, calendar } = held.definition;
    const columnAt = (step: string, field: string) => columnsOfValues(outline, field).find((each) => each.step === step)?.field;
    const found = new Map<string, EveryValue['values']>();
    for (const each of alsoAsked(read, columnAt)) found.set(alsoKey(each), await this.valuesAt(asking, each));
    const foundOf = (asked: AlsoAsked) => found.get(alsoKey(asked)) ?? [];
    return withAlso(read, { parameters, values, calendar, spans: spansOf(read, row), found: foundOf, columnAt }).layout;
  }

  /** Every value a field has at a step: asked of the source once for each result. */
  private async valuesAt({ person, result, held, values, signal }: Asking, asked: AlsoAsked): Promise<EveryValue['values']> {
    const known = `${result.id}/${alsoKey(asked)}`;
    const found = this.values.get(known);
    if (found) return found;
    const told = await this.answers.ask(person, held, { kind: 'every value', ...asked }, values, signal);
    if (told.more)
      throw refused(
        422,
        'groups-many',
        `The field whose values are groups without rows has more than ${told.values.length} of them.`,
        { step: asked.step, field: asked.field },
        'a field of fewer values, or only groups with rows',
      );
    this.values.put(known, told.values, 1);
    return told.values;
  }
}

const alsoKey = ({ step, field, within }: AlsoAsked) => [step, field, ...within].join(' ');
