import { grouped } from '../../ui/format';

interface RowsButtonProps {
  /** How many there are. */
  readonly rows: string;
  /** What they have in common. */
  readonly of: string;
  /** Shows them; left out where they cannot be shown. */
  readonly onRows: ((of: string) => void) | undefined;
}

/** A count of rows that opens them. */
export function RowsButton({ rows, of, onRows }: RowsButtonProps) {
  if (!onRows) return grouped(rows);
  return (
    <button
      type="button"
      title="Shows these rows"
      aria-label={`${grouped(rows)} rows with ${of}, show them`}
      onClick={() => onRows(of)}
      className="underline decoration-dotted underline-offset-2 hover:text-ember"
    >
      {grouped(rows)}
    </button>
  );
}
