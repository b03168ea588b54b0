import { useState } from 'react';
import type { ReactNode } from 'react';
import type { Parameter } from '@cendra/core';
import { familyOf, languageOf, parameterType } from '@cendra/core';
import { Button } from '../../ui/button';
import type { Bench } from '../use-bench';
import { DayWords, resolved } from '../values/day-slot';
import { ListSlot } from '../values/list-slot';
import { CalendarButton } from '../values/calendar-button';
import type { Reading, Reads } from '../values/readings';
import { readsFor } from '../values/readings';
import { splitValues } from '../values/split';
import type { Offered } from '../values/use-offers';
import { ValueSlot } from '../values/value-slot';
import { WhichMeant } from '../values/which-meant';
import { knownChoices } from './known-choices';

interface ValueFieldProps {
  readonly bench: Bench;
  readonly parameter: Parameter;
  readonly values: readonly string[];
  readonly onKeep: (values: readonly string[]) => void;
  readonly onDone: () => void;
  /** Opens a list of values as text, outside of what closes when it loses the focus. */
  readonly onOpenText: () => void;
}

const INPUT = 'h-8 w-full rounded border bg-paper px-2';

/** Where a parameter's values are given, as suits its type and how many it takes. */
export default function ValueField(given: ValueFieldProps) {
  const { bench, parameter, onKeep, onDone } = given;
  const blank = (
    <Button
      small
      onClick={() => {
        onKeep([]);
        onDone();
      }}
    >
      Leave blank
    </Button>
  );
  const reads = readsFor(familyOf(parameterType(parameter)), { language: languageOf(bench.trail.definition) });
  const props = { ...given, blank, reads };
  return (
    <div className="space-y-2">
      {parameter.takes === 'range' ? (
        <RangeField {...props} />
      ) : parameter.takes === 'several' ? (
        <SeveralField {...props} />
      ) : parameter.type === 'yes/no' ? (
        <YesNoField {...props} />
      ) : isDated(parameter) ? (
        <DayField {...props} />
      ) : (
        <SingleField {...props} />
      )}
    </div>
  );
}

interface FieldProps extends ValueFieldProps {
  /** The button that leaves the parameter blank. */
  readonly blank: ReactNode;
  readonly reads: Reads;
}

const isDated = ({ type }: Parameter) => type === 'date' || type === 'date-time';

function offeredFor({ id, choices }: Parameter): Offered {
  if (!choices) return undefined;
  return choices.from === 'typed' ? { from: 'typed', items: choices.items } : { from: 'choices', parameter: id };
}

/** Why there may be nothing to choose from. */
function nothingLeft(bench: Bench, { choices }: Parameter): string {
  const by = choices && choices.from !== 'typed' ? choices.narrowedBy : [];
  const names = bench.trail.definition.parameters
    .filter(({ id }) => by.some((each) => each.parameter === id))
    .map(({ name }) => `:${name}`);
  return names.length === 0 ? 'There are no choices.' : `Narrowed by ${names.join(' and ')}, no choice is left.`;
}

const PLACEHOLDER: Record<Parameter['type'], string> = {
  text: 'text',
  'whole number': '12',
  decimal: '12.5',
  date: '2025-04-30, or today',
  'date-time': '2025-04-30 14:30',
  'yes/no': 'yes or no',
};

/** One value, typed or chosen. Several in one entry are questioned, not guessed. */
function SingleField({ bench, parameter, values, blank, reads, onKeep, onDone }: FieldProps) {
  const [several, setSeveral] = useState<readonly string[]>();
  const keep = (text: string) => {
    const parts = splitValues(text);
    if (parts.length > 1 && several === undefined && (parameter.type !== 'text' || /[\n\t]/.test(text) || text.includes(','))) {
      setSeveral(parts);
      return;
    }
    onKeep(text === '' ? [] : [text]);
    onDone();
  };
  if (several)
    return (
      <div className="space-y-2" role="alert">
        <p>
          :{parameter.name} takes one value, and this looks like {several.length}. Did you mean several values?
        </p>
        <p className="flex flex-wrap gap-2">
          {!bench.withoutValues && (
            <Button
              small
              kind="primary"
              onClick={() => {
                bench.edit({ kind: 'set parameter', parameter: parameter.id, property: 'takes', from: 'one', to: 'several' });
                onKeep(several);
                onDone();
              }}
            >
              Let it take several
            </Button>
          )}
          <Button
            small
            onClick={() => {
              onKeep([several.join(', ')]);
              onDone();
            }}
          >
            It is one value
          </Button>
        </p>
      </div>
    );
  return (
    <ValueSlot
      bench={bench}
      label={parameter.name}
      value={values[0] ?? ''}
      placeholder={PLACEHOLDER[parameter.type]}
      offered={offeredFor(parameter)}
      nothing={nothingLeft(bench, parameter)}
      reads={reads}
      beside={blank}
      autoFocus
      onKeep={keep}
      onSame={onDone}
      onPaste={(text) => {
        if (splitValues(text).length < 2) return false;
        keep(text);
        return true;
      }}
    />
  );
}

function SeveralField({ bench, parameter, values, blank, reads, onKeep, onOpenText }: FieldProps) {
  const { choices } = parameter;
  const labels = choices?.from === 'typed' ? new Map(choices.items.map((each) => [each.value, each.label || each.value])) : undefined;
  return (
    <ListSlot
      bench={bench}
      label={parameter.name}
      noun="values"
      values={values.filter((each) => each !== '')}
      {...(labels ? { labels } : {})}
      placeholder="one more"
      offered={offeredFor(parameter)}
      nothing={nothingLeft(bench, parameter)}
      known={knownChoices(parameter)}
      onOpenText={onOpenText}
      reads={reads}
      beside={blank}
      autoFocus
      onKeep={onKeep}
    />
  );
}

function YesNoField({ parameter, values, blank, onKeep, onDone }: FieldProps) {
  return (
    <div role="group" aria-label={parameter.name} className="flex gap-2">
      {['yes', 'no'].map((word, index) => (
        <Button
          key={word}
          autoFocus={index === 0}
          kind={values[0] === word ? 'primary' : 'plain'}
          aria-pressed={values[0] === word}
          onClick={() => {
            onKeep([word]);
            onDone();
          }}
        >
          {word}
        </Button>
      ))}
      {blank}
    </div>
  );
}

/** One day: written, from a calendar, or relative in words. Days that are nowhere in the data can be given. */
function DayField({ bench, parameter, values, blank, reads, onKeep, onDone }: FieldProps) {
  const { calendar } = bench.trail.definition;
  const [typed, setTyped] = useState(values[0] ?? '');
  const [asked, setAsked] = useState<readonly Reading[]>();
  const finish = (text: string) => {
    onKeep(text === '' ? [] : [text]);
    onDone();
  };
  return (
    <>
      <form
        className="space-y-1"
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          const read = reads(typed.trim());
          if ('text' in read) finish(read.text);
          else setAsked(read.either);
        }}
      >
        <DayInput
          parameter={parameter}
          label={parameter.name}
          value={typed}
          autoFocus
          onChange={(text) => {
            setTyped(text);
            setAsked(undefined);
          }}
        />
        {asked && <WhichMeant text={typed.trim()} readings={asked} onTake={finish} />}
        <span className="flex gap-2">
          <Button type="submit" small kind="primary">
            Use
          </Button>
          {blank}
        </span>
      </form>
      <DayWords
        calendar={calendar}
        value={values[0] ?? ''}
        takes="day"
        onKeep={(text) => {
          onKeep([text]);
          onDone();
        }}
      />
    </>
  );
}

interface DayInputProps {
  readonly parameter: Parameter;
  readonly label: string;
  readonly value: string;
  readonly autoFocus?: boolean;
  readonly onChange: (text: string) => void;
}

/** A day as text, with the browser's calendar beside it. */
function DayInput({ parameter, label, value, autoFocus = false, onChange }: DayInputProps) {
  return (
    <span className="flex gap-1">
      <input
        aria-label={label}
        autoFocus={autoFocus}
        placeholder={PLACEHOLDER[parameter.type]}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className={`${INPUT} figures`}
      />
      <CalendarButton label={label} value={value} onChoose={onChange} />
    </span>
  );
}

/** From and until, both included; for days also one relative stretch. */
function RangeField({ bench, parameter, values, blank, reads, onKeep, onDone }: FieldProps) {
  const { calendar } = bench.trail.definition;
  const [[from, until], setTyped] = useState<readonly [string, string]>([values[0] ?? '', values[1] ?? '']);
  const dated = isDated(parameter);
  const [asked, setAsked] = useState<{ readonly end: 0 | 1; readonly readings: readonly Reading[] }>();
  /** Keeps both ends once each can mean only one thing; asks about the first that does not. */
  const finish = (given: readonly [string, string]) => {
    const [low, high] = [reads(given[0].trim()), reads(given[1].trim())];
    if ('either' in low) return setAsked({ end: 0, readings: low.either });
    if ('either' in high) return setAsked({ end: 1, readings: high.either });
    onKeep(low.text === '' && high.text === '' ? [] : [low.text, high.text]);
    onDone();
  };
  const ends = [
    ['from', from, (text: string) => setTyped([text, until])],
    ['until', until, (text: string) => setTyped([from, text])],
  ] as const;
  return (
    <>
      <form
        className="space-y-1"
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          setAsked(undefined);
          finish([from, until]);
        }}
      >
        {ends.map(([word, value, change]) =>
          dated ? (
            <DayInput
              key={word}
              parameter={parameter}
              label={`${parameter.name} ${word}`}
              value={value}
              autoFocus={word === 'from'}
              onChange={change}
            />
          ) : (
            <input
              key={word}
              autoFocus={word === 'from'}
              aria-label={`${parameter.name} ${word}`}
              placeholder={word}
              value={value}
              onChange={(event) => change(event.target.value)}
              className={INPUT}
            />
          ),
        )}
        {asked && (
          <WhichMeant
            text={[from, until][asked.end] ?? ''}
            readings={asked.readings}
            onTake={(text) => {
              const given: readonly [string, string] = asked.end === 0 ? [text, until] : [from, text];
              setTyped(given);
              setAsked(undefined);
              finish(given);
            }}
          />
        )}
        <p className="text-meta text-ink-soft">
          Both included; leave one blank for open.
          {dated && ` Days are whole days, until midnight${calendar.zone === undefined ? '' : ` in ${calendar.zone}`}.`}
          {dated && resolved(from, calendar) !== '' && ` ${resolved(from, calendar)}.`}
        </p>
        <span className="flex gap-2">
          <Button type="submit" small kind="primary">
            Use
          </Button>
          {blank}
        </span>
      </form>
      {dated && (
        <DayWords
          calendar={calendar}
          value={from}
          takes="stretch"
          onKeep={(text) => {
            onKeep([text]);
            onDone();
          }}
        />
      )}
    </>
  );
}
