import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import type { Cell, ReadLine } from '@cendra/core';
import { fittingLayout, LINE_KINDS, lineReader, PLAIN_LAYOUT, proofRelations, proofTable, sheetFields } from '@cendra/core';
import { keyed } from '../../../packages/core/test/support/wire-rows';
import { writePdf } from '../src/engine/paper/pdf';
import { folderFor } from './support/cluster';
import { stored } from './support/crosstabs';

/** A paper may have any number of lines: of each only its height stays. */

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

const LINES = 50_000;
const fields = sheetFields(keyed, [], []);
const layout = fittingLayout({ ...PLAIN_LAYOUT, grandTotal: false, totals: [] }, fields);
const { columns } = proofRelations(layout, fields, stored);

const valueOf = (id: string, at: number): Cell => {
  if (id === 'line_kind') return String(LINE_KINDS.indexOf('row'));
  if (id === 'd2' || id === 'w1') return String(at);
  return id === 't1' ? `harvest ${at}` : null;
};

/** Lines none of whose values stands in another one; `held` is told how much memory is in use at some of them, as they are read once more. */
function linesTelling(held: Map<number, number>) {
  const read = lineReader({ columns }, layout);
  let readings = 0;
  return async function* (): AsyncIterable<ReadLine> {
    readings++;
    for (let at = 0; at < LINES; at++) {
      if (readings === 2 && (at + 1) % 10_000 === 0) {
        collect();
        held.set(at + 1, process.memoryUsage().heapUsed);
      }
      yield read([String(at), ...columns.map(({ id }) => valueOf(id, at))]);
      if (at % 500 === 0) await new Promise(setImmediate);
    }
  };
}

test('fifty thousand lines are put on pages in no more room than ten thousand', async () => {
  const held = new Map<number, number>();
  const out = join(folderFor('memory'), 'long.pdf');
  const paper = { table: proofTable(layout, fields), title: 'Harvests', notes: [], language: 'en', out };
  const { pages } = await writePdf(paper, linesTelling(held));
  expect(pages).toBeGreaterThan(500);
  const [first = 0, ...others] = held.values();
  expect(held.size).toBe(5);
  // What ten thousand lines are written with is more than this.
  for (const each of others) expect(each - first).toBeLessThan(20_000_000);
});
