import type { FoundValue } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';

interface NearestLineProps {
  readonly value: string;
  /** Where it is not, as “nowhere in grade”. */
  readonly where: string;
  readonly nearest: readonly FoundValue[];
  readonly onTake: (value: string) => void;
}

/** A value that is nowhere, with the nearest that are, one click to take. */
export function NearestLine({ value, where, nearest, onTake }: NearestLineProps) {
  return (
    <span role="status" className="flex flex-wrap items-center gap-1.5 text-amber">
      “{value}” is {where}.{nearest.length > 0 && <span className="text-ink-soft">Nearest:</span>}
      {nearest.map((each) => (
        <Button key={each.value} small onClick={() => onTake(each.value)}>
          {each.label || each.value} {each.rows !== '' && <span className="figures text-ink-soft">{grouped(each.rows)}</span>}
        </Button>
      ))}
    </span>
  );
}
