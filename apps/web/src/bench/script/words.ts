import type { TempChange, ToldStatement } from '@cendra/core';
import { grouped } from '../../ui/format';

const some = (count: number, one: string, many = `${one}s`) => `${grouped(count)} ${count === 1 ? one : many}`;

/** What a statement did to a temp table, in words. */
export function changeWords(change: TempChange): string {
  switch (change.by) {
    case 'making':
      return change.added === 0 ? 'made, without rows' : `made, with ${some(change.added, 'row')}`;
    case 'key': {
      const parts = [
        ...(change.added > 0 ? [`${some(change.added, 'row')} new`] : []),
        ...(change.changed > 0 ? [`${some(change.changed, 'row')} changed`] : []),
        ...(change.gone > 0 ? [`${some(change.gone, 'row')} gone`] : []),
      ];
      return parts.length === 0 ? 'as it was' : parts.join(', ');
    }
    case 'rows': {
      const parts = [
        ...(change.added > 0 ? [`${some(change.added, 'row')} that were not there`] : []),
        ...(change.gone > 0 ? [`${some(change.gone, 'row')} not there any more`] : []),
      ];
      const why = change.because === 'no key' ? 'nothing tells its rows apart' : 'its key repeats';
      return `${parts.length === 0 ? 'the same rows' : parts.join(', ')}; ${why}`;
    }
    case 'count':
      return `${grouped(Number(change.before))} rows became ${grouped(Number(change.after))}; it is too large to be compared`;
  }
}

/** What became of a statement, in few words. */
export function stateWords({ state, rows, ms }: ToldStatement): string {
  if (state === 'not run') return 'not run';
  if (state === 'failed') return 'failed';
  return `${rows === null ? 'done' : some(Number(rows), 'row')}${ms === null ? '' : `, ${ms} ms`}`;
}
