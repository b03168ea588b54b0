import fc from 'fast-check';
import { crosstabRelations, LINE_KINDS, rowsBehind } from '@cendra/core';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import { landedAcross, layouts, stored } from './support/crosstabs';
import { groupsKept, kept, rowsGiven } from './support/engine-relations';
import { Generated } from './support/generated';
import { fields } from './support/proof-lines';

describe('the rows behind a figure', () => {
  let generated: Generated;
  beforeAll(async () => (generated = await Generated.open()));
  afterAll(() => generated.close());

  test('are as many as the line and its column say, and those of its group and no others', async () => {
    let seen = 0;
    let looked = 0;
    await fc.assert(
      fc.asyncProperty(layouts, fc.array(wireRow, { maxLength: 14 }), async (asked, wireRows) => {
        const { layout, places, found } = await landedAcross(generated, asked, wireRows);
        const made = crosstabRelations(layout, fields, stored, found);
        await groupsKept(generated, made);
        await kept(generated, 'made', made.lines);
        await generated.engine.run('create or replace temp view lines as select row_number() over () - 1 as line_number, * from made');
        const at = (row: readonly (string | null)[], id: string) => row[made.columns.findIndex((each) => each.id === id)] ?? null;
        const lines = await rowsGiven(generated, made.lines);
        for (const [line, cells] of lines.entries()) {
          const level = Number(at(cells, 'line_level'));
          const behind = await rowsGiven(generated, rowsBehind(layout, fields, stored, { line, level }, 100));
          expect(behind.length).toBe(Number(at(cells, 'line_rows')));
          for (const row of behind)
            layout.levels.slice(0, level).forEach((each, key) => {
              const own = row[fields.findIndex(({ id }) => id === each.field)];
              if (at(cells, `rest_${key + 1}`) !== 'true') expect(own).toBe(at(cells, `key_${key + 1}`));
            });
          if (LINE_KINDS[Number(at(cells, 'line_kind'))] !== 'totals') continue;
          for (const [place, across] of places.entries()) {
            const own = await rowsGiven(generated, rowsBehind(layout, fields, stored, { line, level, across }, 100));
            expect(own.length).toBe(Number(at(cells, `cell_rows_${place}`) ?? 0));
            looked++;
          }
          seen += behind.length;
        }
      }),
      { numRuns: 16, seed: 18 },
    );
    expect(seen).toBeGreaterThan(100);
    expect(looked).toBeGreaterThan(100);
  });
});
