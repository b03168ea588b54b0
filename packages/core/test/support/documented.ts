import type { Field, FieldType, Row, Schema, Value } from '../../src';
import {
  checkExpression,
  date,
  datetime,
  decimal,
  evaluate,
  float,
  readValue,
  text,
  whole,
  windowsOf,
  windowValues,
  writeValue,
  yesno,
} from '../../src';
import { NOW } from './rows';

/** The rows the documentation of the expression language speaks of. */
type Column = readonly [name: string, type: FieldType, values: readonly (string | null)[]];

export const HARVEST: readonly Column[] = [
  ['kilos', decimal(8, 2), ['12.50']],
  ['price', decimal(8, 4), ['8.4000']],
  ['boxes', whole, ['7']],
  ['strength', float, ['2.5']],
  ['first_name', text, ['Marit']],
  ['last_name', text, ["O'Sedge"]],
  ['remark', text, [null]],
  ['counted', text, [' 17']],
  ['checked', yesno, ['true']],
  ['picked_on', date, ['2024-02-29']],
  ['weighed_at', datetime, ['2024-02-29 14:30:05.25']],
];

export const HARVESTS: readonly Column[] = [
  ['id', whole, ['1', '2', '3', '4', '5']],
  ['region', text, ['Fennick', 'Fennick', 'Fennick', 'Upper', 'Upper']],
  ['kilos', decimal(8, 2), ['4.00', '6.00', '6.00', null, '10.00']],
];

export const schemaOf = (columns: readonly Column[]): Schema => ({
  fields: columns.map(([name, type]): Field => ({
    id: name,
    name,
    type,
    role: 'attribute',
    origin: { step: 's', column: name },
    forUseOnly: false,
  })),
});

export interface Example {
  readonly source: string;
  /** Wire text of each row's value. */
  readonly gives: readonly (string | null)[];
  readonly columns: readonly Column[];
}

/** The examples of the documentation, from its tables. */
export function examplesIn(markdown: string): readonly Example[] {
  return markdown.split('\n').flatMap((line): Example[] => {
    const cells = /^\| `(.*)` +\| (.*?) *\|$/.exec(line);
    const [, source = '', given = ''] = cells ?? [];
    if (!cells || !/^(`[^`]*`|null)(, (`[^`]*`|null))*$/.test(given)) return [];
    const gives = (given.match(/`[^`]*`|null/g) ?? []).map((each) => (each === 'null' ? null : each.slice(1, -1).replaceAll('\\|', '|')));
    return [{ source: source.replaceAll('\\|', '|'), gives, columns: source.includes(' over (') ? HARVESTS : HARVEST }];
  });
}

/** What core gives for an example, row by row. */
export function valuesOf({ source, columns }: Example): readonly (string | null)[] {
  const { expression, problems } = checkExpression(source, { schema: schemaOf(columns), parameters: [] });
  if (!expression) throw new Error(`${source}: ${problems.map((each) => each.message).join(' ')}`);
  const rows = (columns[0]?.[2] ?? []).map((_, at): Row => {
    const values = new Map(columns.map(([name, type, wire]): [string, Value] => [name, valueOf(type, wire[at] ?? null)]));
    return { field: (id) => values.get(id) ?? null, parameter: () => null, list: () => [], now: NOW, window: () => null };
  });
  const windows = new Map(windowsOf(expression).map((node) => [node, windowValues(node, rows)]));
  return rows.map((row, at) => {
    const value = evaluate(expression, { ...row, window: (node) => windows.get(node)?.[at] ?? null });
    return value === null ? null : writeValue(expression.type, value);
  });
}

function valueOf(type: FieldType, wire: string | null): Value {
  const read = wire === null ? undefined : readValue(type, wire);
  return read?.ok ? read.value : null;
}
