import { copiedCell, tabbed } from '../src/bench/rows/copy';
import { actOf, actOnView } from '../src/bench/rows/grid-keys';
import { sortText } from '../src/bench/rows/sort';
import type { RowsView } from '../src/bench/rows/view';
import { frozenUpTo, hiding, LEAST_WIDTH, moved, PLAIN_VIEW, resized, shownColumns, sortedBy } from '../src/bench/rows/view';
import { movedTo } from '../src/fields/order';

const columns = ['id', 'kilos', 'grade', 'note'].map((id) => ({ id }));
const shown = (view: RowsView) => shownColumns(columns, view).map((each) => each.id);

describe('the view of the rows', () => {
  test('sorts upwards, then downwards, then as they come', () => {
    const up = sortedBy(PLAIN_VIEW, 'kilos', false);
    const down = sortedBy(up, 'kilos', false);
    expect([up, down, sortedBy(down, 'kilos', false)].map((each) => sortText(each.sort))).toEqual(['kilos:asc', 'kilos:desc', undefined]);
  });

  test('sorts by several fields in the order they were added', () => {
    const both = sortedBy(sortedBy(PLAIN_VIEW, 'grade', false), 'kilos', true);
    expect(sortText(both.sort)).toBe('grade:asc,kilos:asc');
    expect(sortText(sortedBy(both, 'grade', true).sort)).toBe('grade:desc,kilos:asc');
  });

  test('moves, hides and freezes fields', () => {
    const view = moved(PLAIN_VIEW, shown(PLAIN_VIEW), 'note', -1);
    expect(shown(view)).toEqual(['id', 'kilos', 'note', 'grade']);
    expect(shown(moved(view, shown(view), 'id', -1))).toEqual(shown(view));
    const frozen = frozenUpTo(view, shown(view), 'kilos');
    expect(frozen.frozen).toBe(2);
    expect(frozenUpTo(frozen, shown(frozen), 'kilos').frozen).toBe(0);
    const hidden = hiding(frozen, shown(frozen), 'id');
    expect([shown(hidden), hidden.frozen]).toEqual([['kilos', 'note', 'grade'], 1]);
  });

  test('keeps the last field, and widths within bounds', () => {
    const one = { ...PLAIN_VIEW, hidden: ['kilos', 'grade', 'note'] };
    expect(hiding(one, shown(one), 'id')).toBe(one);
    expect(resized(PLAIN_VIEW, 'id', 3).widths).toEqual({ id: LEAST_WIDTH });
  });

  test('is changed by keys', () => {
    const press = (view: RowsView, key: string) => {
      const act = actOf(key, view, 'kilos');
      return act && act !== 'profile' ? actOnView(act, view, shown(view), 'kilos', 100) : view;
    };
    expect(['s', 's', 's'].reduce(press, PLAIN_VIEW).sort).toEqual([]);
    expect(['+', '-', '+'].reduce(press, PLAIN_VIEW).widths).toEqual({ kilos: 124 });
    expect(shown(press(PLAIN_VIEW, ']'))).toEqual(['id', 'grade', 'kilos', 'note']);
    expect(press(PLAIN_VIEW, 'x').frozen).toBe(2);
    expect(press(PLAIN_VIEW, 'q')).toBe(PLAIN_VIEW);
  });
});

describe('copied rows', () => {
  test('have a header, quotes where they are needed, and no formula', () => {
    const rows = [
      ['FN-07', '1.5'],
      ['say "a"\tb', '-2'],
      ['=1+1', ''],
    ];
    expect(tabbed(['batch', 'kilos'], rows, [true, false])).toBe('batch\tkilos\nFN-07\t1.5\n"say ""a""\tb"\t-2\n\'=1+1\t');
  });

  test('take null as nothing, a cut text as far as it is here, and a misfit as the source has it', () => {
    expect([null, undefined, 'a', { t: 'bee', n: 9 }, { m: 'infinity' }].map(copiedCell)).toEqual(['', '', 'a', 'bee', 'infinity']);
  });
});

test('a field put at another place of the order', () => {
  const ids = ['a', 'b', 'c'];
  expect(movedTo(ids, 'c', 0)).toEqual(['c', 'a', 'b']);
  expect(movedTo(ids, 'a', 3)).toBe(ids);
  expect(movedTo(ids, 'x', 1)).toBe(ids);
});
