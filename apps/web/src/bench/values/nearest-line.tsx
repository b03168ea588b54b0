import { useRef } from 'react';
import type { FoundValue } from '@cendra/core';
import { Button } from '../../ui/button';
import { focusBefore } from '../../ui/focus-before';
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
  const part = useRef<HTMLSpanElement>(null);
  const take = (each: string) => {
    focusBefore(part.current);
    onTake(each);
  };
  return (
    <span ref={part} role="status" className="flex flex-wrap items-center gap-1.5 text-amber">
      “{value}” is {where}.{nearest.length > 0 && <span className="text-ink-soft">Nearest:</span>}
      {nearest.map((each) => (
        <Button key={each.value} small onClick={() => take(each.value)}>
          {each.label || each.value} {each.rows !== '' && <span className="figures text-ink-soft">{grouped(each.rows)}</span>}
        </Button>
      ))}
    </span>
  );
}
