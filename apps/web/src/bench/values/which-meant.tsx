import { useRef } from 'react';
import { Button } from '../../ui/button';
import { focusBefore } from '../../ui/focus-before';
import type { Reading } from './readings';

interface WhichMeantProps {
  readonly text: string;
  readonly readings: readonly Reading[];
  readonly onTake: (text: string) => void;
  /** Left out where what is written cannot stay as it is. */
  readonly onAsWritten?: () => void;
}

/** Asks which of its readings a text means, where it stands; the slot before it has the focus again once that is said. */
export function WhichMeant({ text, readings, onTake, onAsWritten }: WhichMeantProps) {
  const part = useRef<HTMLSpanElement>(null);
  const say = (meant: () => void) => {
    focusBefore(part.current);
    meant();
  };
  return (
    <span ref={part} role="alert" className="inline-flex flex-wrap items-center gap-1">
      <span>“{text}” is</span>
      {readings.map((each, index) => (
        <Button key={each.text} small kind={index === 0 ? 'primary' : 'plain'} onClick={() => say(() => onTake(each.text))}>
          {each.says}
        </Button>
      ))}
      {onAsWritten && (
        <Button small kind="quiet" onClick={() => say(onAsWritten)}>
          as it is written
        </Button>
      )}
    </span>
  );
}
