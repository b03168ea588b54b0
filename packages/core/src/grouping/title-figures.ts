import { all, compare, wholeLiteral } from '../expressions';
import { whole } from '../fields';
import type { Aggregate, SheetField } from '../sheet';
import { AGGREGATES } from '../sheet';
import type { Column, Relation } from '../sql';
import type { Problem } from '../problem';
import { warning } from '../problem';
import { levelOfTotal } from './check';
import { column, field, LINE, totalColumn, totalType } from './columns';
import { grouped, landedRows } from './groups';
import type { Figure, LayoutWords } from './layout';
import { wordsOf } from './layout';
import { cellText, writeTotal } from './shown-table';

/**
 * Figures of all rows in a title or note that is written by hand. They are typed as `[sum of Kilos]`, by the label or the
 * name of the field, and kept by its id, as `[sum of {id}]`.
 */
const AGGREGATE = AGGREGATES.join('|');
const KEPT = new RegExp(`\\[(${AGGREGATE}) of \\{([^{}]+)\\}\\]`, 'g');
const TYPED = new RegExp(`\\[(${AGGREGATE}) of ([^\\[\\]{}]+)\\]`, 'gi');

/** As they are kept, of what was typed: what names no field of that label or name stays as it is. */
export const keptFigures = (typed: string, fields: readonly SheetField[]): string =>
  typed.replace(TYPED, (written, aggregate: string, words: string) => {
    const found = fieldCalled(words, fields);
    return found ? `[${aggregate.toLowerCase()} of {${found.id}}]` : written;
  });

function fieldCalled(words: string, fields: readonly SheetField[]): SheetField | undefined {
  const said = words.trim().toLowerCase();
  const called = fields.filter(({ label }) => label.toLowerCase() === said);
  return called.length === 1 ? called[0] : (fields.find(({ name }) => name.toLowerCase() === said) ?? called[0]);
}

/** As they are typed, of what is kept. A field that is gone has no name any more. */
export const typedFigures = (kept: string, fields: readonly SheetField[]): string =>
  filled(kept, ({ aggregate, field: id }) => {
    const found = fields.find((each) => each.id === id);
    const shared = fields.filter((each) => each.label === found?.label).length > 1;
    return `[${aggregate} of ${(shared ? found?.name : found?.label) ?? 'gone'}]`;
  });

const filled = (kept: string, instead: (figure: Figure) => string): string =>
  kept.replace(KEPT, (_written, aggregate: Aggregate, id: string) => instead({ aggregate, field: id }));

/** What is typed like a figure and names no field. */
export const unknownFigures = (kept: string): readonly string[] => [...new Set([...kept.matchAll(TYPED)].map(([written]) => written))];

/** The words with ids of fields exchanged. */
export const figuresWithIds = (kept: string, idOf: (id: string) => string): string =>
  filled(kept, ({ aggregate, field: id }) => `[${aggregate} of {${idOf(id)}}]`);

/** The figures that stand in what is written by hand, each once, as far as the fields have them. */
export function titleFigures(layout: LayoutWords, fields: readonly SheetField[]): readonly Figure[] {
  const figures = [...wordsOf(layout).join(' ').matchAll(KEPT)].map(([, aggregate, id = '']) => ({
    aggregate: aggregate as Aggregate,
    field: id,
  }));
  return figures.filter(
    (each, index) => figures.findIndex((other) => same(other, each)) === index && problemOf(each, fields) === undefined,
  );
}

const same = (a: Figure, b: Figure) => a.field === b.field && a.aggregate === b.aggregate;

/** Figures in it that the fields do not have. */
export const titleProblems = (layout: LayoutWords, fields: readonly SheetField[]): readonly Problem[] =>
  [...wordsOf(layout).join(' ').matchAll(KEPT)].flatMap(
    ([, aggregate, id = '']) => problemOf({ aggregate: aggregate as Aggregate, field: id }, fields) ?? [],
  );

function problemOf(figure: Figure, fields: readonly SheetField[]): Problem | undefined {
  const found = fields.find((each) => each.id === figure.field && !each.forUseOnly);
  const place = { field: figure.field };
  if (!found)
    return warning(
      'title-field-gone',
      'The title names a figure of a field that is not handed over.',
      place,
      'a field that is handed over',
    );
  const told = found.aggregates.includes(figure.aggregate) && levelOfTotal({ levels: [] }, figure, found) !== undefined;
  return told
    ? undefined
    : warning(
        'title-figure-unsuited',
        `The title names the ${figure.aggregate} of ${found.name}, which all rows together have not.`,
        place,
        found.aggregates.join(', ') || 'no figure of it',
      );
}

/** One row: those figures of all rows of a result, in their order. */
export function figuresOfAll(figures: readonly Figure[], fields: readonly SheetField[], stored: readonly Column[]): Relation {
  const layout = { levels: [], rows: false, grandTotal: true, marks: [], totals: figures };
  const groups: Relation = {
    node: 'filter',
    input: grouped(layout, fields, landedRows(stored)),
    condition: all(compare('=', field(LINE.level, whole), wholeLiteral(0))),
  };
  return { node: 'choose', input: groups, columns: figures.map((each, index) => column(totalColumn(index), totalType(fields, each))) };
}

/** The words with the figures in their places, in the formats of their fields; where one is not known, an ellipsis. */
export const filledFigures = (
  kept: string,
  figures: readonly Figure[],
  cells: readonly (string | null)[] | undefined,
  fields: readonly SheetField[],
): string =>
  filled(kept, (figure) => {
    const at = figures.findIndex((each) => same(each, figure));
    const cell = cells?.[at];
    return cell === undefined ? '…' : cellText(cell, writeTotal(figure, fields)) || 'none';
  });
