import type { ToldTemp } from '@cendra/core';
import { grouped } from '../../ui/format';
import { Tick } from '../../ui/tick';

interface TempTableProps {
  readonly temp: ToldTemp;
  /** Its first rows, and how they were changed, as the statement told that touched it last. */
  readonly touched: NonNullable<ToldTemp['touched']>;
  /** Whether what is shown is the change of the chosen statement. */
  readonly changing: boolean;
  /** While it is being said what tells its rows apart. */
  onKey?: ((columns: readonly string[]) => void) | undefined;
}

/** The columns with what tells rows apart first, then those that changed: they are what is looked for. */
function telling({ columns, key }: ToldTemp, { change }: TempTableProps['touched']): ToldTemp['columns'] {
  const changed = new Set(change.by === 'key' ? change.rows.flatMap(({ old }) => Object.keys(old ?? {})) : []);
  const rank = (name: string) => (key.includes(name) ? 0 : changed.has(name) ? 1 : 2);
  return columns.toSorted((a, b) => rank(a.name) - rank(b.name));
}

type Cells = readonly (string | null)[];

interface Line {
  readonly row: Cells;
  readonly is: 'same' | 'new' | 'changed' | 'gone';
  readonly old?: Readonly<Record<string, string | null>>;
}

/** The first rows of a temp table; where a statement changed them row by row, what was new, what was gone, and which cell was what. */
export function TempTable({ temp, touched, changing, onKey }: TempTableProps) {
  const { name, key, count } = temp;
  const columns = changing ? telling(temp, touched) : temp.columns;
  const at = (column: string) => temp.columns.findIndex((each) => each.name === column);
  const lines = linesOf(touched, changing);
  const shown = touched.rows.length;
  return (
    <div>
      <div role="group" aria-label={`${name}, its rows`} tabIndex={0} className="overflow-auto">
        <table aria-label={`Rows of ${name}`} className="figures w-full">
          <thead className="text-left text-meta text-ink-soft">
            <tr className="border-b align-bottom">
              {changing && touched.change.by === 'key' && (
                <th scope="col" className="w-0 py-0.5 pr-3 font-normal" aria-label="What became of the row" />
              )}
              {columns.map((each) => (
                <th key={each.name} scope="col" className="py-0.5 pr-4 font-normal whitespace-nowrap">
                  {onKey && (
                    <Tick
                      checked={key.includes(each.name)}
                      label={`${each.name} tells rows of ${name} apart`}
                      onChange={(on) => onKey(on ? [...key, each.name] : key.filter((other) => other !== each.name))}
                    />
                  )}
                  <span className="text-ink">{each.name}</span> {each.type}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lines.map((line, index) => (
              <tr
                key={index}
                className={`border-b ${line.is === 'gone' ? 'text-ink-faint line-through' : ''} ${line.is === 'new' ? 'bg-panel' : ''}`}
              >
                {changing && touched.change.by === 'key' && (
                  <td className="pr-3 text-meta text-ink-soft">{line.is === 'same' ? '' : line.is}</td>
                )}
                {columns.map(({ name: column }) => (
                  <Cell key={column} value={line.row[at(column)] ?? null} old={line.old} column={column} />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {BigInt(count) > BigInt(shown) && (
        <p className="mt-1 text-meta text-ink-soft">
          The first {shown} of {grouped(count)} rows.
        </p>
      )}
    </div>
  );
}

function Cell({ value, old, column }: { readonly value: string | null; readonly old: Line['old']; readonly column: string }) {
  const changed = old !== undefined && column in old;
  return (
    <td className={`max-w-60 truncate py-0.5 pr-4 ${changed ? 'font-medium' : ''}`}>
      <Value of={value} />
      {changed && (
        <span className="ml-1.5 text-meta font-normal text-ink-soft">
          was <Value of={old[column] ?? null} />
        </span>
      )}
    </td>
  );
}

const Value = ({ of }: { readonly of: string | null }) =>
  of === null ? <span className="text-ink-faint">null</span> : of === '' ? <span className="text-ink-faint">empty</span> : of;

function linesOf({ change, rows }: TempTableProps['touched'], changing: boolean): readonly Line[] {
  if (!changing || change.by !== 'key') return rows.map((row): Line => ({ row, is: 'same' }));
  return [...change.goneRows.map((row): Line => ({ row, is: 'gone' })), ...change.rows];
}
