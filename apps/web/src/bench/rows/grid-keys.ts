import type { HeaderAct } from './grid-header';
import type { RowsView } from './view';
import { frozenUpTo, hiding, moved, resized, sortedBy, sortedOnlyBy } from './view';

const STEP = 24;

/** What a key does with the field of the cell it is pressed on. */
export function actOf(key: string, view: RowsView, field: string | undefined): HeaderAct | undefined {
  const sorted = view.sort.find((each) => each.field === field);
  const keys: Readonly<Record<string, HeaderAct>> = {
    s: sorted ? (sorted.descending ? 'unsorted' : 'down') : 'up',
    S: 'also',
    p: 'profile',
    x: 'freeze',
    h: 'hide',
    '[': 'left',
    ']': 'right',
    '+': 'wider',
    '-': 'narrower',
  };
  return keys[key];
}

/** The view after it; a profile is none of the view's. */
export function actOnView(
  act: Exclude<HeaderAct, 'profile'>,
  view: RowsView,
  shown: readonly string[],
  field: string,
  width: number,
): RowsView {
  switch (act) {
    case 'up':
    case 'down':
      return sortedOnlyBy(view, field, act === 'down');
    case 'unsorted':
      return { ...view, sort: view.sort.filter((each) => each.field !== field) };
    case 'also':
      return sortedBy(view, field, true);
    case 'freeze':
      return frozenUpTo(view, shown, field);
    case 'left':
    case 'right':
      return moved(view, shown, field, act === 'left' ? -1 : 1);
    case 'hide':
      return hiding(view, shown, field);
    case 'wider':
    case 'narrower':
      return resized(view, field, width + (act === 'wider' ? STEP : -STEP));
  }
}
