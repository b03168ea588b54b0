import type { AcrossPlace, ChartReading, SheetField, ReadLine } from '@cendra/core';
import { acrossText, cellText, DRAWN_MOST, equal, groupText, SERIES_MOST, SMALL_MOST, writeTotal } from '@cendra/core';
import type { Cell } from '../../ui/cell';

/** One figure of a group, as a length and as it is read; null where there is none. */
export interface DrawnFigure {
  readonly number: number | null;
  readonly text: string;
}

export interface DrawnSeries {
  readonly name: string;
  /** One for each group, in their order. */
  readonly figures: readonly DrawnFigure[];
}

/** One chart: groups beside one another, with one or several series. */
export interface DrawnChart {
  /** Of a small one, the group it is of. */
  readonly title: string | undefined;
  readonly groups: readonly string[];
  readonly series: readonly DrawnSeries[];
}

export interface Drawn {
  readonly charts: readonly DrawnChart[];
  /** What is not drawn, in words. */
  readonly notes: readonly string[];
}

/** Lines are read up to so many: beyond them nothing could be told apart. */
export const LINES_READ = 5_000;

/** What a chart shows of the lines it is made of, and what it leaves out. `lines` may be fewer than `all` there are. */
export function drawnOf(
  { chart, layout, small }: ChartReading,
  fields: readonly SheetField[],
  across: readonly AcrossPlace[] | undefined,
  lines: readonly ReadLine[],
  all: number,
): Drawn {
  const [total] = layout.totals;
  const [first, second] = layout.levels;
  const fieldOf = (id: string | undefined) => fields.find((each) => each.id === id);
  const write = total ? writeTotal(total, fields) : undefined;
  const keyOf = (line: ReadLine, level: number) => groupText(line, level, { layout, fields });
  const figure = (cell: Cell): DrawnFigure => {
    const number = typeof cell === 'string' && cell !== '' && Number.isFinite(Number(cell)) ? Number(cell) : null;
    return { number, text: write ? cellText(cell, write) : '' };
  };
  const groupLines = lines.filter((each) => each.kind === 'totals' && each.level === layout.levels.length);
  const beside = (layout.across?.levels ?? []).flatMap((each) => fieldOf(each.field) ?? []);
  const names = (across ?? []).map((place) => place.map((key, at) => acrossText(key, layout.across?.levels[at], fields)).join(', '));
  const notes: string[] = [];
  const most = DRAWN_MOST[chart.as];

  const drawn = small ? bySmall(groupLines, (line) => keyOf(line, 1)) : [{ title: undefined, lines: groupLines }];
  const smallWord = fieldOf(first?.field)?.label ?? 'group';
  const groupWord = fieldOf((small ? second : first)?.field)?.label ?? 'group';
  if (drawn.length > SMALL_MOST) notes.push(`Drawn are the first ${SMALL_MOST} of ${drawn.length} values of ${smallWord}.`);
  if (names.length > SERIES_MOST)
    notes.push(`Drawn are the first ${SERIES_MOST} of ${names.length} values of ${beside.map((each) => each.label).join(' and ')}.`);
  if (lines.length < all) notes.push(`Drawn is what the first ${lines.length} of ${all} groups say.`);
  const longest = Math.max(0, ...drawn.map((each) => each.lines.length));
  if (longest > most) notes.push(`Drawn are the first ${most} of ${longest} values of ${groupWord}.`);

  const charts = drawn.slice(0, SMALL_MOST).map((each): DrawnChart => {
    const own = each.lines.slice(0, most);
    const groups = own.map((line) => keyOf(line, layout.levels.length));
    const series =
      names.length > 0
        ? names.slice(0, SERIES_MOST).map((name, place) => ({ name, figures: own.map((line) => figure(line.total(place))) }))
        : [
            {
              name: total ? `${total.aggregate} of ${fieldOf(total.field)?.label ?? ''}` : '',
              figures: own.map((line) => figure(line.total(0))),
            },
          ];
    return { title: each.title, groups, series };
  });
  const blanks = charts.flatMap(({ series }) => series.flatMap(({ figures }) => figures.filter(({ number }) => number === null))).length;
  if (blanks > 0) notes.push(`${blanks} ${blanks === 1 ? 'figure is' : 'figures are'} not there and not drawn: no rows, or no value.`);
  return { charts, notes };
}

/** The lines of each group of the first level, in their order. */
function bySmall(lines: readonly ReadLine[], titleOf: (line: ReadLine) => string) {
  const charts: { readonly title: string; readonly lines: ReadLine[] }[] = [];
  for (const line of lines) {
    const last = charts.at(-1);
    const before = last?.lines[0];
    // Two groups may be shown by one name.
    if (last && before && equal(before.keys[0], line.keys[0]) && before.rests[0] === line.rests[0]) last.lines.push(line);
    else charts.push({ title: titleOf(line), lines: [line] });
  }
  return charts;
}

/** The lengths an axis has room for, with round numbers at which lines stand. */
export interface Scale {
  readonly from: number;
  readonly to: number;
  readonly ticks: readonly number[];
}

/** So many lines stand across a chart, about. */
const TICKS = 5;

/** One scale for all of the charts, so that small ones are read alike; what is stacked adds up. Bars and areas begin at zero. */
export function scaleOf(charts: readonly DrawnChart[], stacked: boolean, fromZero: boolean): Scale {
  const lengths = charts.flatMap(({ groups, series }) =>
    stacked
      ? groups.flatMap((_group, at) => {
          const own = series.map(({ figures }) => figures[at]?.number ?? 0);
          const sum = (some: readonly number[]) => some.reduce((total, each) => total + each, 0);
          return [sum(own.filter((each) => each > 0)), sum(own.filter((each) => each < 0))];
        })
      : series.flatMap(({ figures }) => figures.flatMap(({ number }) => number ?? [])),
  );
  let [least, greatest] = fromZero || lengths.length === 0 ? [0, 0] : [Infinity, -Infinity];
  for (const each of lengths) {
    least = Math.min(least, each);
    greatest = Math.max(greatest, each);
  }
  const step = stepOf(greatest - least || Math.abs(greatest) || 1);
  const first = Math.floor(least / step);
  const last = Math.max(first + 1, Math.ceil(greatest / step));
  // Multiplied, not added up, so that no tick is a hair beside its number.
  const ticks = Array.from({ length: last - first + 1 }, (_each, at) => Number(((first + at) * step).toPrecision(12)));
  return { from: ticks[0] ?? 0, to: ticks.at(-1) ?? 1, ticks };
}

/** 1, 2 or 5 times a power of ten, by which a range has about so many lines. */
function stepOf(range: number): number {
  const power = 10 ** Math.floor(Math.log10(range / TICKS));
  const times = range / TICKS / power;
  return (times <= 1 ? 1 : times <= 2 ? 2 : times <= 5 ? 5 : 10) * power;
}
