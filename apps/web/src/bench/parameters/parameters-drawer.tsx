import type { Edit, Parameter, StartsBy } from '@cendra/core';
import { BLANKS, moveParameter, PARAMETER_NAME, PARAMETER_TYPES, removeParameter, TAKES } from '@cendra/core';
import { EmptyState, ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { CalendarSentence } from '../calculate/calendar-sentence';
import { ActMenu } from '../act-menu';
import { ChoiceSlot, TextSlot } from '../slots';
import type { Bench } from '../use-bench';
import { ChoicesLines } from './choices-lines';
import { Line } from './line';

/** Every parameter as a card of short sentences, in the order they are asked for. */
export default function ParametersDrawer({ bench }: { readonly bench: Bench }) {
  const { parameters } = bench.trail.definition;
  if (parameters.length === 0)
    return <EmptyState>No parameter yet. Type :name as the value of a clause; it gets its type from the field.</EmptyState>;
  return (
    <>
      <ol>
        {parameters.map((parameter, index) => (
          <li key={parameter.id} className="border-b px-3 py-2">
            <ParameterCard bench={bench} parameter={parameter} index={index} />
          </li>
        ))}
      </ol>
      <CalendarSentence bench={bench} />
    </>
  );
}

interface ParameterCardProps {
  readonly bench: Bench;
  readonly parameter: Parameter;
  readonly index: number;
}

type Property = Extract<Edit, { kind: 'set parameter' }>['property'];

const STARTS = ['values', 'an expression', 'the first choice'] as const;
const STARTS_BY: Readonly<Record<(typeof STARTS)[number], StartsBy | undefined>> = {
  values: undefined,
  'an expression': 'expression',
  'the first choice': 'first choice',
};

function ParameterCard({ bench, parameter, index }: ParameterCardProps) {
  const { edit, withoutValues: disabled, trail } = bench;
  const change = (property: Property, to: unknown): Edit => ({
    kind: 'set parameter',
    parameter: parameter.id,
    property,
    from: parameter[property],
    to,
  });
  const set = (property: Property, to: unknown) => edit(change(property, to));
  const rename = (to: string) => {
    const name = to.replace(/^:/, '').trim();
    const free = trail.definition.parameters.every((each) => each.name !== name);
    if (PARAMETER_NAME.test(name) && free) edit({ kind: 'rename parameter', parameter: parameter.id, from: parameter.name, to: name });
  };
  const moved = (by: 1 | -1) => {
    const moving = moveParameter(trail.definition, parameter.id, index + by);
    return moving && [moving];
  };
  const starts = STARTS.find((each) => STARTS_BY[each] === parameter.startsBy) ?? 'values';
  const problems = trail.problems.filter((each) => each.place.parameter === parameter.id);
  const common = { disabled };
  return (
    <div className="space-y-1.5" role="group" aria-label={`Parameter ${parameter.name}`}>
      <div className="flex items-center justify-between">
        <TextSlot
          {...common}
          label="Name of the parameter"
          look="slot-parameter"
          value={`:${parameter.name}`}
          placeholder=":name"
          onKeep={rename}
        />
        {!disabled && (
          <ActMenu
            bench={bench}
            of={`:${parameter.name}`}
            acts={() => [
              { word: 'Move up', edits: moved(-1) },
              { word: 'Move down', edits: moved(1) },
              {
                word: `Remove :${parameter.name}`,
                edits: [removeParameter(trail.definition, parameter)],
                asks: [`Remove :${parameter.name}?`, 'Remove it'],
              },
            ]}
          />
        )}
      </div>
      {problems.map((each, at) => (
        <ProblemLine key={at} problem={each} />
      ))}
      <Line label="is a">
        <ChoiceSlot {...common} label="Type" value={parameter.type} choices={PARAMETER_TYPES} onChange={(to) => set('type', to)} />
      </Line>
      <Line label="takes">
        <ChoiceSlot {...common} label="Takes" value={parameter.takes} choices={TAKES} onChange={(to) => set('takes', to)} />
        {parameter.takes === 'range' && (
          <span className="text-meta text-ink-soft"> from … until …, both included; leave one blank for open</span>
        )}
      </Line>
      <Line label="left blank">
        <ChoiceSlot {...common} label="Left blank" value={parameter.leftBlank} choices={BLANKS} onChange={(to) => set('leftBlank', to)} />
      </Line>
      <Line label="starts as">
        <ChoiceSlot
          {...common}
          label="What it starts as"
          value={starts}
          choices={STARTS}
          onChange={(to) => edit(change('startsBy', STARTS_BY[to]), change('startsAs', []))}
        />{' '}
        {parameter.startsBy !== 'first choice' && (
          <TextSlot
            {...common}
            label={starts === 'values' ? 'Starts as' : 'Starts as the expression'}
            look={starts === 'values' ? '' : 'font-mono'}
            value={parameter.startsAs.join(starts === 'values' ? ', ' : '; ')}
            placeholder={starts === 'values' ? 'blank' : 'current_date'}
            onKeep={(text) => set('startsAs', startsAs(parameter, text))}
          />
        )}
      </Line>
      <ChoicesLines bench={bench} parameter={parameter} onSet={(choices) => set('choices', choices)} />
      <LimitLines bench={bench} parameter={parameter} onSet={(limits) => set('limits', limits)} />
      <Line label="hint">
        <TextSlot
          {...common}
          label="Hint"
          value={parameter.hint}
          placeholder="what a reader should know"
          onKeep={(text) => set('hint', text)}
        />
      </Line>
      <label className="flex items-center gap-1.5 text-ink-soft">
        <Tick
          checked={parameter.isPrivate ?? false}
          label={`${parameter.name} is private`}
          disabled={disabled}
          onChange={(on) => set('isPrivate', on ? true : undefined)}
        />
        private: never in the address, never remembered
      </label>
    </div>
  );
}

function startsAs(parameter: Parameter, text: string): readonly string[] {
  if (text.trim() === '') return [];
  if (parameter.startsBy === 'expression') return text.split(';').map((each) => each.trim());
  return parameter.takes === 'one' ? [text.trim()] : text.split(',').map((each) => each.trim());
}

interface LimitLinesProps {
  readonly bench: Bench;
  readonly parameter: Parameter;
  readonly onSet: (limits: Parameter['limits']) => void;
}

/** Least, greatest, pattern, how many at most, and what is said when a value breaks one of them. */
function LimitLines({ bench, parameter, onSet }: LimitLinesProps) {
  const limits = parameter.limits ?? {};
  const put = (key: keyof typeof limits, value: string | number | undefined) => {
    const { [key]: _old, ...rest } = limits;
    const next = value === undefined || value === '' ? rest : { ...rest, [key]: value };
    onSet(Object.keys(next).length === 0 ? undefined : next);
  };
  const slot = (key: 'least' | 'greatest' | 'fits' | 'message', label: string, placeholder: string) => (
    <TextSlot
      label={label}
      value={limits[key] ?? ''}
      placeholder={placeholder}
      disabled={bench.withoutValues}
      onKeep={(text) => put(key, text.trim())}
    />
  );
  const inOrder = parameter.type !== 'text' && parameter.type !== 'yes/no';
  return (
    <Line label="limits">
      <span className="inline-flex flex-wrap items-center gap-1">
        {inOrder && (
          <>
            {slot('least', 'Least value', 'from')} to {slot('greatest', 'Greatest value', 'until')}
          </>
        )}
        {parameter.type === 'text' && <>fits {slot('fits', 'Pattern values fit', 'FN-%')}</>}
        {parameter.takes === 'several' && (
          <>
            at most{' '}
            <TextSlot
              label="How many values at most"
              value={limits.most === undefined ? '' : String(limits.most)}
              placeholder="any number"
              disabled={bench.withoutValues}
              onKeep={(text) => put('most', /^[1-9]\d{0,5}$/.test(text.trim()) ? Number(text) : undefined)}
            />
          </>
        )}
        {parameter.limits && <>else say {slot('message', 'What is said when a limit is broken', 'a sentence of its own')}</>}
      </span>
    </Line>
  );
}
