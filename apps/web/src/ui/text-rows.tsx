interface TextRowsProps {
  readonly label: string;
  readonly names: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
  /** Which columns are numbers, to stand in line by their ends. */
  readonly numbers?: readonly boolean[];
}

/** A few rows as texts, to be looked at and no more. */
export function TextRows({ label, names, rows, numbers = [] }: TextRowsProps) {
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
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
