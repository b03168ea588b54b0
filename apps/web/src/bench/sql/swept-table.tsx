import type { Swept, SweptLine } from '@cendra/core';
import { Button } from '../../ui/button';

/** A line for each value: rows, and the figures of the fields that are looked at. */
export function SweptTable({ swept, onOpen }: { readonly swept: Swept; readonly onOpen: ((line: SweptLine) => void) | undefined }) {
  return (
    <div className="mt-2 overflow-x-auto">
      <table aria-label="What the sweep found" className="figures w-full border-t">
        <thead className="text-left text-meta text-ink-soft">
          <tr className="border-b">
            <th scope="col" className="py-0.5 font-normal">
              value
            </th>
            <th scope="col" className="text-right font-normal">
              rows
            </th>
            {swept.fields.flatMap(({ field, name, adds }) => [
              <th key={`${field} least`} scope="col" className="pl-4 text-right font-normal">
                least {name}
              </th>,
              <th key={`${field} greatest`} scope="col" className="pl-4 text-right font-normal">
                greatest {name}
              </th>,
              ...(adds
                ? [
                    <th key={`${field} sum`} scope="col" className="pl-4 text-right font-normal">
                      {adds === 'sum' ? `sum of ${name}` : `how many ${name}`}
                    </th>,
                  ]
                : []),
            ])}
            <th />
          </tr>
        </thead>
        <tbody>
          {swept.lines.map((line, index) => (
            <tr key={index} className="border-b">
              <th scope="row" className="py-0.5 text-left font-mono font-normal">
                {line.values.join(' … ')}
              </th>
              {line.problem !== undefined ? (
                <td colSpan={2 + 3 * swept.fields.length} className="text-rust">
                  {line.problem}
                </td>
              ) : (
                <>
                  <td className="text-right">{line.rows}</td>
                  {line.figures.flatMap(({ least, greatest, sum }, at) => [
                    <Figure key={`${at} least`} value={least} />,
                    <Figure key={`${at} greatest`} value={greatest} />,
                    ...(swept.fields[at]?.adds ? [<Figure key={`${at} sum`} value={sum} />] : []),
                  ])}
                  <td className="pl-4 text-right">
                    {onOpen && (
                      <Button small kind="quiet" onClick={() => onOpen(line)} aria-label={`Rows for ${line.values.join(' … ')}`}>
                        Rows
                      </Button>
                    )}
                  </td>
                </>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const Figure = ({ value }: { readonly value: string | null }) => (
  <td className="max-w-48 truncate pl-4 text-right">{value ?? <span className="text-ink-faint">null</span>}</td>
);
