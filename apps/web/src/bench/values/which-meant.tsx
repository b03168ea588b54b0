import { Button } from '../../ui/button';
import type { Reading } from './readings';

interface WhichMeantProps {
  readonly text: string;
  readonly readings: readonly Reading[];
  readonly onTake: (text: string) => void;
  /** Left out where what is written cannot stay as it is. */
  readonly onAsWritten?: () => void;
}

/** Asks which of its readings a text means, where it stands. */
export function WhichMeant({ text, readings, onTake, onAsWritten }: WhichMeantProps) {
  return (
    <span role="alert" className="inline-flex flex-wrap items-center gap-1">
      <span>“{text}” is</span>
      {readings.map((each, index) => (
        <Button key={each.text} small kind={index === 0 ? 'primary' : 'plain'} onClick={() => onTake(each.text)}>
          {each.says}
        </Button>
      ))}
      {onAsWritten && (
        <Button small kind="quiet" onClick={onAsWritten}>
          as it is written
        </Button>
      )}
    </span>
  );
}
