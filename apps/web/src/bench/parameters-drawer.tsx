import { X } from 'lucide-react';
import type { Edit, Parameter } from '@cendra/core';
import { BLANKS, PARAMETER_NAME, PARAMETER_TYPES, TAKES } from '@cendra/core';
import { Button } from '../ui/button';
import { EmptyState } from '../ui/notice';
import { ChoiceSlot, TextSlot } from './slots';
import type { Bench } from './use-bench';

/** Every parameter as a card of short sentences. */
export function ParametersDrawer({ bench }: { readonly bench: Bench }) {
  const { parameters } = bench.trail.definition;
  if (parameters.length === 0)
    return <EmptyState>No parameter yet. Type :name as the value of a clause; it gets its type from the field.</EmptyState>;
  return (
    <ul>
      {parameters.map((parameter, index) => (
        <li key={parameter.id} className="border-b px-3 py-2">
          <ParameterCard bench={bench} parameter={parameter} index={index} />
        </li>
      ))}
    </ul>
  );
}

function ParameterCard({ bench, parameter, index }: { readonly bench: Bench; readonly parameter: Parameter; readonly index: number }) {
  const { edit, withoutValues: disabled } = bench;
  const set = (property: Extract<Edit, { kind: 'set parameter' }>['property'], to: unknown) =>
    edit({ kind: 'set parameter', parameter: parameter.id, property, from: parameter[property], to });
  const rename = (to: string) => {
    const name = to.replace(/^:/, '').trim();
    const free = bench.trail.definition.parameters.every((each) => each.name !== name);
    if (PARAMETER_NAME.test(name) && free) edit({ kind: 'rename parameter', parameter: parameter.id, from: parameter.name, to: name });
  };
  return (
    <div className="space-y-1.5">
      <Line label="Name">
        <TextSlot
          label="Name of the parameter"
          look="slot-parameter"
          value={`:${parameter.name}`}
          placeholder=":name"
          disabled={disabled}
          onKeep={rename}
        />
      </Line>
      <Line label="is a">
        <ChoiceSlot label="Type" value={parameter.type} choices={PARAMETER_TYPES} disabled={disabled} onChange={(to) => set('type', to)} />
      </Line>
      <Line label="takes">
        <ChoiceSlot label="Takes" value={parameter.takes} choices={TAKES} disabled={disabled} onChange={(to) => set('takes', to)} />
      </Line>
      <Line label="left blank">
        <ChoiceSlot
          label="Left blank"
          value={parameter.leftBlank}
          choices={BLANKS}
          disabled={disabled}
          onChange={(to) => set('leftBlank', to)}
        />
      </Line>
      <Line label="starts as">
        <TextSlot
          label="Starts as"
          value={parameter.startsAs.join(', ')}
          placeholder="blank"
          disabled={disabled}
          onKeep={(text) => set('startsAs', startsAs(parameter, text))}
        />
      </Line>
      <Line label="hint">
        <TextSlot
          label="Hint"
          value={parameter.hint}
          placeholder="what a reader should know"
          disabled={disabled}
          onKeep={(text) => set('hint', text)}
        />
      </Line>
      {!disabled && (
        <Button small kind="quiet" icon={X} onClick={() => edit({ kind: 'remove parameter', parameter, index })}>
          Remove
        </Button>
      )}
    </div>
  );
}

function startsAs(parameter: Parameter, text: string): readonly string[] {
  if (text.trim() === '') return [];
  return parameter.takes === 'one' ? [text.trim()] : text.split(',').map((each) => each.trim());
}

function Line({ label, children }: { readonly label: string; readonly children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[5rem_1fr] items-center">
      <span className="text-ink-soft">{label}</span>
      <span className="min-w-0 overflow-hidden">{children}</span>
    </div>
  );
}
