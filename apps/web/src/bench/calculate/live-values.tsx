import type { Schema } from '@cendra/core';
import { fieldById, isNumber, typeWord } from '@cendra/core';
import { CellText } from '../../ui/cell';
import type { Cell } from '../../ui/cell';
import type { LiveRows, LiveValue, Shown } from './values';

interface LiveValuesProps {
  readonly schema: Schema;
  readonly name: string;
  readonly type: string;
  readonly rows: LiveRows;
  readonly used: readonly string[];
  readonly values: readonly LiveValue[];
  /** The text of the part that is pointed at; undefined when it is the whole. */
  readonly part: string | undefined;
  readonly onTrace: (row: number) => void;
}

/** More fields would leave no room for the value. */
const MOST_FIELDS = 4;

/** The value on a handful of rows, beside the fields it is made of; each row opens how its value came about. */
export function LiveValues({ schema, name, type, rows, used, values, part, onTrace }: LiveValuesProps) {
  const shown = used.length > 0 ? used : rows.columns.slice(0, 2);
  const fields = shown.flatMap((id) => fieldById(schema, id) ?? []).slice(0, MOST_FIELDS);
  return (
    <table className="figures w-full border-collapse text-meta">
      <caption className="sr-only">Values on {rows.rows.length} rows</caption>
      <thead className="sticky top-0 bg-panel">
        <tr className="border-b">
          {fields.map((each) => (
            <th
              key={each.id}
              scope="col"
              className={`h-6 truncate px-2 font-medium ${isNumber(each.type) ? 'text-right' : 'text-left'}`}
              title={typeWord(each.type)}
            >
              {each.name}
            </th>
          ))}
          {part !== undefined && (
            <th scope="col" className="h-6 max-w-40 truncate border-l px-2 text-left font-mono font-normal text-ink-soft">
              {part}
            </th>
          )}
          <th scope="col" className="h-6 border-l px-2 text-left font-medium text-plum">
            = {name} <span className="font-normal text-ink-soft">{type}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.rows.map((cells, index) => (
          <tr key={index} className="border-b">
            {fields.map((each) => (
              <td key={each.id} className={`h-6 max-w-36 truncate px-2 ${isNumber(each.type) ? 'text-right' : ''}`}>
                <CellText text={textOf(cells[rows.columns.indexOf(each.id) + 1])} />
              </td>
            ))}
            {part !== undefined && (
              <td className="h-6 max-w-40 truncate border-l px-2 text-ink-soft">
                <Value shown={values[index]?.part} />
              </td>
            )}
            <td className="h-6 max-w-56 border-l p-0">
              <button
                type="button"
                onClick={() => onTrace(index)}
                className="block h-6 w-full truncate px-2 text-left hover:bg-panel"
                title="How this value came about"
              >
                <Value shown={values[index]?.whole} />
                <span className="sr-only">, how it came about</span>
              </button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const textOf = (cell: Cell | undefined): string | null => {
  if (cell === undefined || cell === null || typeof cell === 'string') return cell ?? null;
  return 't' in cell ? `${cell.t}…` : cell.m;
};

/** A value; one that failed says so, and one that cannot be told yet is left open. */
export function Value({ shown }: { readonly shown: Shown | undefined }) {
  if (!shown || shown.unknown) return <span className="text-ink-faint">…</span>;
  if (shown.failed) return <span className="text-rust">! failed</span>;
  return <CellText text={shown.text} />;
}
