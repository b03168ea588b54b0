interface TextRowsProps {
  readonly label: string;
  readonly names: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
  /** Which columns are numbers, to stand in line by their ends. */
  readonly numbers?: readonly boolean[];
  /** What can be done with each row, as a button behind it. */
  readonly act?: { readonly words: string; readonly onPick: (row: number) => void };
}

/** A few rows as texts, to be looked at and no more. */
export function TextRows({ label, names, rows, numbers = [], act }: TextRowsProps) {
  const side = (at: number) => (numbers[at] ? 'text-right' : '');
  return (
    <div className="mt-1 max-h-72 overflow-auto" tabIndex={0} role="group" aria-label={`${label}, scrolled`}>
      <table aria-label={label} className="figures w-full border-t">
        <thead className="sticky top-0 bg-paper text-left text-meta text-ink-soft">
          <tr className="border-b">
            {names.map((each, at) => (
              <th key={at} scope="col" className={`py-0.5 pr-4 font-normal ${side(at)}`}>
                {each}
              </th>
            ))}
            {act && <td />}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={index} className="border-b">
              {row.map((cell, at) => (
                <td key={at} className={`max-w-80 truncate py-0.5 pr-4 ${side(at)}`}>
                  {cell ?? <span className="text-ink-faint">null</span>}
                </td>
              ))}
              {act && (
                <td className="py-0.5 text-right">
                  <button
                    type="button"
                    aria-label={`${act.words}, row ${index + 1}`}
                    onClick={() => act.onPick(index)}
                    className="underline underline-offset-2"
                  >
                    {act.words}
                  </button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
