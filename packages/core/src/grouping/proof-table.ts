import { isNumber } from '../fields';
import type { Format, SheetField, Writer } from '../sheet';
import { aggregateType, writerOf } from '../sheet';
import { grouped } from '../values';
import { besideType } from './besides';
import { totalType } from './columns';
import type { Beside, Layout, Total } from './layout';
import { BESIDES, isBelow } from './layout';
import { lettersUnder } from './mark-letters';
import type { AcrossKey, AcrossPlace } from './places';
import { acrossPlaces, sameKey } from './places';
import type { ColumnHead, ProofColumn, ProofTable } from './shown-table';
import { acrossText, EVERYTHING, sameAggregate, writeTotal } from './shown-table';

/** `across` are the values that stand beside one another, where the layout has such columns. */
export function proofTable(layout: ProofTable['layout'], fields: readonly SheetField[], across?: readonly AcrossPlace[]): ProofTable {
  if (layout.across && across) return crosstab(layout, fields, across);
  // Rows of the rest have values of their own.
  const grouping = new Set(
    layout.levels.flatMap(({ first, stretch, field, shown = '', heads = [] }) => [
      ...(first === undefined || stretch ? [field, shown] : []),
      ...heads.filter((each) => !layout.totals.some((total) => total.field === each)),
    ]),
  );
  const columns = fields
    .filter((each) => !each.forUseOnly && !grouping.has(each.id) && (layout.rows || layout.totals.some((total) => total.field === each.id)))
    .flatMap((field): readonly ProofColumn[] => {
      const own: ProofColumn = {
        key: field.id,
        field,
        header: headerOf(field),
        number: isNumber(field.type),
        letters: lettersUnder(layout, field.id, undefined),
        write: writerOf({ type: field.type, role: field.role }, field.format),
      };
      const totals = layout.totals.flatMap((total, index) => (total.field === field.id ? [{ total, index }] : []));
      if (totals.length === 0) return [own];
      return totals.flatMap(({ total, index }, at) => {
        const under =
          at === 0
            ? { ...own, total: index, header: layout.rows ? own.header : headerOfTotal(total, field, layout) }
            : furtherOf(own, total, index, layout, fields);
        return [under, ...(total.beside ?? []).map((kind) => besideOf(under, kind, total, fields))];
      });
    });
  return { layout, fields, columns, worded: layout.levels.length > 0 || layout.grandTotal || layout.link !== undefined, heads: [] };
}

/** The column of one more aggregate of a field, behind its own. */
const furtherOf = (own: ProofColumn, total: Total, index: number, layout: Layout, fields: readonly SheetField[]): ProofColumn => ({
  key: `${own.key} ${total.aggregate}`,
  field: own.field,
  total: index,
  further: true,
  header: `${headerOf(own.field)}, ${total.aggregate}`,
  number: isNumber(aggregateType(total.aggregate, own.field.type)),
  letters: lettersUnder(layout, total.field, total.aggregate),
  write: writeTotal(total, fields),
});

/** Where aggregates differ, what heads a column says which it is of. */
const headerOfTotal = ({ aggregate }: Total, field: SheetField, { totals }: Pick<Layout, 'totals'>): string =>
  sameAggregate(totals ?? []) === undefined ? `${headerOf(field)}, ${aggregate}` : headerOf(field);

/** One column per place and total, or per place where totals stand on a line each. */
function crosstab(layout: ProofTable['layout'], fields: readonly SheetField[], found: readonly AcrossPlace[]): ProofTable {
  const { totals, across } = layout;
  const places = across ? acrossPlaces(across, found) : [];
  const below = isBelow(layout);
  const wordsOf = (key: AcrossKey, level: number): string => acrossText(key, across?.levels[level], fields);
  const words = places.map((each) => (each.length === 0 ? EVERYTHING : each.map(wordsOf).join(', ')));
  const besides = BESIDES.filter((kind) => totals.some((each) => each.beside?.includes(kind)));
  const over = below ? 1 + besides.length : totals.reduce((sum, each) => sum + 1 + (each.beside?.length ?? 0), 0);
  const heads = (across?.levels ?? []).map((_level, depth) => headsAt(places, depth, over, wordsOf));
  // A single column below the heads is headed by the last of them.
  const last = below && over === 1 ? heads.at(-1) : undefined;
  const columns = places.flatMap((_each, place) =>
    totals.slice(0, below ? 1 : totals.length).flatMap((total, index): readonly ProofColumn[] => {
      const field = fields.find((each) => each.id === total.field);
      if (!field) return [];
      const header = headerOfTotal(total, field, layout);
      const own: ProofColumn = {
        key: `${place} ${index}`,
        field,
        place,
        total: place * totals.length + index,
        header: below ? (last?.find(({ first }) => first === place)?.words ?? '') : header,
        number: true,
        letters: Math.max(...(below ? totals : [total]).map((each) => lettersUnder(layout, each.field, each.aggregate))),
        write: writerOf({ type: field.type, role: field.role }, field.format),
      };
      return [
        own,
        ...(below ? besides : (total.beside ?? [])).map((kind) => besideOf(own, kind, total, fields, below ? totals : undefined)),
      ];
    }),
  );
  return { layout, fields, columns, worded: true, places: { words, over }, heads: last ? heads.slice(0, -1) : heads };
}

/** Over all of a group that stands across. */
const TOGETHER = 'together';

/** The heads of a level across: one over all places of a group, those over all of it among them. */
function headsAt(
  places: readonly AcrossPlace[],
  depth: number,
  over: number,
  wordsOf: (key: AcrossKey, level: number) => string,
): readonly ColumnHead[] {
  const heads: { words: string; first: number; places: number; of: AcrossPlace }[] = [];
  for (const [first, place] of places.entries()) {
    const last = heads.at(-1);
    const key = place[depth];
    const shares = last && key && last.of.length > depth && place.slice(0, depth + 1).every((each, at) => sameKey(each, last.of[at]));
    if (shares) last.places++;
    else {
      const words = key ? wordsOf(key, depth) : place.length < depth ? '' : depth === 0 ? EVERYTHING : TOGETHER;
      heads.push({ words, first, places: 1, of: place });
    }
  }
  return heads.map(({ of: _of, ...head }) => ({ ...head, columns: head.places * over }));
}

/** What columns beside a figure are called. */
const BESIDE_WORDS: Readonly<Record<Beside, string>> = {
  share: 'share, %',
  difference: 'difference',
  change: 'change, %',
  'running total': 'running total',
  rank: 'rank',
  'difference across': 'to the one before',
  'change across': 'to the one before, %',
};

/** The column behind a figure's own that says what stands beside it. */
function besideOf(
  own: ProofColumn,
  kind: Beside,
  total: Total | undefined,
  fields: readonly SheetField[],
  below?: readonly Total[],
): ProofColumn {
  const write = total ? writeBeside(kind, total, fields) : grouped;
  const writes = below ? { writes: below.map((each) => writeBeside(kind, each, fields)) } : {};
  return { ...own, key: `${own.key} ${kind}`, beside: kind, header: BESIDE_WORDS[kind], number: true, letters: 0, write, ...writes };
}

function writeBeside(kind: Beside, total: Total, fields: readonly SheetField[]): Writer {
  if (kind === 'rank') return grouped;
  const type = besideType(kind, totalType(fields, total));
  const percent = kind === 'share' || kind === 'change' || kind === 'change across';
  return percent ? writerOf({ type, role: 'measure' }, PERCENT) : writeTotal(total, fields);
}

const PERCENT: Format = { pattern: '#,##0.0' };

/** The unit stands in the header, not behind each value. */
const headerOf = ({ label, format }: SheetField) => (format?.unit === undefined ? label : `${label}, ${format.unit}`);
