import type { FieldType } from '@cendra/core';
import { typeWord } from '@cendra/core';
import { useAnswer } from '../runs/use-answer';
import { Button } from '../ui/button';
import { grouped } from '../ui/format';
import type { Bench } from './use-bench';

interface ConversionsProps {
  readonly bench: Bench;
  readonly step: string;
  readonly field: string;
  readonly onTake: (type: FieldType) => void;
}

/** What would make values of different types one type, each with what it would lose. */
export function Conversions({ bench, step, field, onTake }: ConversionsProps) {
  const { answer, waiting, failure } = useAnswer(bench, bench.withoutValues ? undefined : { kind: 'conversions', step, field });
  if (bench.withoutValues) return null;
  if (waiting) return <span className="text-meta text-ink-soft">counting what each type would lose …</span>;
  if (failure) return null;
  return (
    <span className="flex flex-wrap items-center gap-2">
      {answer?.map(({ type, lost }) => {
        const all = lost.reduce((sum, each) => sum + BigInt(each), 0n);
        return (
          <Button key={typeWord(type)} small onClick={() => onTake(type)}>
            {`Take all of them as ${typeWord(type)}${all === 0n ? ', nothing is lost' : `, ${grouped(String(all))} values are lost`}`}
          </Button>
        );
      })}
    </span>
  );
}
