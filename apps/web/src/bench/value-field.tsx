import { useState } from 'react';
import type { Parameter } from '@cendra/core';
import { Button } from '../ui/button';

interface ValueFieldProps {
  readonly parameter: Parameter;
  readonly values: readonly string[];
  readonly onKeep: (values: readonly string[]) => void;
}

const INPUT = 'h-8 w-full rounded border bg-paper px-2';

/** Where a parameter's values are typed: one, several (one per line), or the two ends of a range. Enter keeps. */
export function ValueField({ parameter, values, onKeep }: ValueFieldProps) {
  const [typed, setTyped] = useState(values.join('\n'));
  const keep = (text: string) => onKeep(readTyped(parameter, text));
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    keep(typed);
  };
  const [from = '', until = ''] = typed.split('\n');
  return (
    <form onSubmit={submit} className="space-y-2" noValidate>
      {parameter.takes === 'range' ? (
        <div className="space-y-1">
          <input
            autoFocus
            aria-label={`${parameter.name} from`}
            placeholder="from"
            value={from}
            onChange={(event) => setTyped(`${event.target.value}\n${until}`)}
            className={INPUT}
          />
          <input
            aria-label={`${parameter.name} until`}
            placeholder="until"
            value={until}
            onChange={(event) => setTyped(`${from}\n${event.target.value}`)}
            className={INPUT}
          />
          <p className="text-meta text-ink-soft">Both included; leave one blank for open.</p>
        </div>
      ) : parameter.takes === 'several' ? (
        <textarea
          autoFocus
          aria-label={parameter.name}
          rows={5}
          placeholder="one per line"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="w-full rounded border bg-paper px-2 py-1"
        />
      ) : (
        <input
          autoFocus
          aria-label={parameter.name}
          placeholder={PLACEHOLDER[parameter.type]}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className={INPUT}
        />
      )}
      <div className="flex gap-2">
        <Button type="submit" small kind="primary">
          Use
        </Button>
        <Button small onClick={() => keep('')}>
          Leave blank
        </Button>
      </div>
    </form>
  );
}

const PLACEHOLDER: Record<Parameter['type'], string> = {
  text: 'text',
  'whole number': '12',
  decimal: '12.5',
  date: '2025-04-30',
  'date-time': '2025-04-30 14:30',
  'yes/no': 'yes or no',
};

function readTyped(parameter: Parameter, text: string): readonly string[] {
  if (text.trim() === '') return [];
  if (parameter.takes === 'one') return [text];
  if (parameter.takes === 'range') return text.split('\n').slice(0, 2);
  return text
    .split(/\n|,/)
    .map((each) => each.trim())
    .filter((each) => each !== '');
}
