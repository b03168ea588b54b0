import type { StepCountDto } from '../api';
import { Button } from '../ui/button';
import { grouped } from '../ui/format';

interface FailedRowsProps {
  readonly count: StepCountDto | undefined;
  /** “could not be converted”. */
  readonly what: string;
  readonly onShow: () => void;
}

/** Rows that arrive and of which something became null because it failed, with a way to see them. */
export function FailedRows({ count, what, onShow }: FailedRowsProps) {
  if (!count || count.failed === '0') return null;
  return (
    <p className="mt-2 flex items-center gap-2 text-amber">
      In {grouped(count.failed)} rows something {what} and is null.
      <Button small kind="quiet" onClick={onShow}>
        Show them
      </Button>
    </p>
  );
}
