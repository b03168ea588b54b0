import type { AcrossPlace, Level, Total } from '@cendra/core';
import { fittingLayout, PLAIN_LAYOUT, proofTable, sheetFields } from '@cendra/core';
import { keyed } from '../../../packages/core/test/support/wire-rows';
import { headsPlan, turnedText } from '../src/engine/paper/heads';
import { Type, widthOf } from '../src/engine/paper/type';
import { fieldOf, writtenCriteria } from './support/datasets';
import { papers } from './support/papers';

/** Heads of many columns per value stand upright on paper, so that as many as may be stand on a page. */

const { paper, pdfText, pdfFacts, harvests, linesOf } = papers();
const type = new Type();
const sizes = { size: 8.5, line: 12, padding: 4, widest: 200 };
const fields = sheetFields(keyed, [], []);
const across = (field: string): Level => ({ field, descending: false, subtotal: true });

function planOf(
  columns: readonly Level[],
  places: readonly AcrossPlace[],
  room: number,
  totals: readonly Total[] = [{ field: 'd2', aggregate: 'count' }],
) {
  const layout = fittingLayout({ ...PLAIN_LAYOUT, totals, across: { levels: columns, total: false } }, fields);
  const table = proofTable(layout, fields, places);
  return {
    table,
    plan: headsPlan(
      table,
      table.columns.map(() => 30),
      room,
      type,
      sizes,
    ),
  };
}

const days = Array.from({ length: 30 }, (_each, at) => [{ value: `2024-06-${String(at + 1).padStart(2, '0')}` }]);
const wide = ({ widths }: { readonly widths: readonly number[] }) => widths.reduce((sum, each) => sum + each, 0);

test('only where there is no room for all of them, and the heads are what needs it', () => {
  const { plan: few } = planOf([across('day1')], days.slice(0, 5), 700);
  expect([few.own.turned, few.over]).toEqual([false, [{ height: 1, turned: false }]]);
  const { plan: many } = planOf([across('day1')], days, 700);
  expect([many.own.turned, many.over.map((each) => each.turned)]).toEqual([true, [true]]);
  expect(wide(many)).toBeLessThan(0.8 * (wide(few) / 5) * 30);
  // Short heads get no narrower by it.
  const { plan: short } = planOf(
    [across('w2')],
    days.map((_each, at) => [{ value: String(at) }]),
    700,
    [{ field: 'd2', aggregate: 'sum' }],
  );
  expect(short.over.map((each) => each.turned)).toEqual([false]);
});

test('each has as much height as the longest of its line, and lines beside one another where it is longer', () => {
  const { table, plan } = planOf(
    [across('t1')],
    days.map((_each, at) => [{ value: `a rather long name of a place, number ${at}` }]),
    700,
  );
  const [names] = plan.over;
  const longest = Math.max(
    ...table.heads.flat().flatMap(({ words }) => turnedText(words, type, sizes.size).map((each) => widthOf(each, sizes.size))),
  );
  expect(names?.turned).toBe(true);
  expect((names?.height ?? 0) * sizes.line).toBeGreaterThanOrEqual(longest);
  expect(((names?.height ?? 0) - 2) * sizes.line).toBeLessThan(longest);
  for (const width of plan.widths) expect(width).toBeGreaterThanOrEqual(2 * sizes.line + 2 * sizes.padding);
});

test('heads over several columns stay level, and are as wide as they have to be', () => {
  const places = days.flatMap(([day]) => ['A', 'B'].map((value) => [day ?? { value: null }, { value: `grade of ${value}, as told` }]));
  const { table, plan } = planOf([across('day1'), across('t1')], places, 700);
  expect(plan.over.map((each) => each.turned)).toEqual([false, true]);
  for (const { words, first } of table.heads[0] ?? [])
    expect((plan.widths[first] ?? 0) + (plan.widths[first + 1] ?? 0)).toBeGreaterThanOrEqual(
      widthOf(type.set(words, 'bold'), sizes.size) + 2 * sizes.padding,
    );
});

test('are found and read like any other text of the paper', async () => {
  const given = await harvests((definition) => {
    const level = { field: fieldOf(definition, 'picked_on'), descending: false, subtotal: true };
    return [
      writtenCriteria(definition, "picked_on >= date '2024-06-01' and picked_on < date '2024-07-01'"),
      { kind: 'set proof', property: 'across', from: definition.proof.across, to: { levels: [level], total: true } },
    ];
  });
  const { table, lines } = await linesOf(given);
  expect(table.columns.length).toBeGreaterThan(25);
  const { bytes } = await paper(given.dataset, given.result, 'pdf');
  const text = pdfText(bytes);
  for (const { words } of table.heads.flat()) expect(text).toContain(words);
  // Side by side on level heads they would not stand on so few pages.
  const pages = Number(/Pages:\s+(\d+)/.exec(pdfFacts(bytes))?.[1]);
  expect(lines.length).toBeLessThan(40);
  expect(pages).toBeLessThanOrEqual(2);
});
