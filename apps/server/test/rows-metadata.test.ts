import { whole } from '@cendra/core';
import { rowsMetadata } from '../src/exports/rows-metadata';

/** What is said of a CSV beside it. */

test('columns are told under the names the CSV has in its header, also where those are not their own', () => {
  const columns = ['=kilos', 'grade', 'grade'].map((name, at) => ({ id: `f${at}`, name, label: name, type: whole }));
  const told = JSON.parse(rowsMetadata('rows.csv', 'en', [['What it is', 'Harvests']], columns as never)) as {
    readonly tableSchema: { readonly columns: readonly { readonly titles: string }[] };
  };
  expect(told.tableSchema.columns.map(({ titles }) => titles)).toEqual(["'=kilos", 'grade', 'grade_2']);
});
