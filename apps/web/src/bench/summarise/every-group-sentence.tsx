import { useState } from 'react';
import type { CheckedOf, Edit, EveryGroup, ExpressionText, GroupPart, Partner, SummaryKey } from '@cendra/core';
import { isDay, keysOfPart, linkReferences, partnerInput } from '@cendra/core';
import { PartnerDialog } from '../join/bring-in';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { Bench } from '../use-bench';

interface EveryGroupProps {
  readonly bench: Bench;
  readonly summary: CheckedOf<'summarise'>;
}

const NONE = 'only where there are rows';
const ALSO = 'also without rows';
const TOGETHER = 'as found, with the others';
const ALONE = 'every value found';
const DAYS = 'every one from … until';
const STEP = 'every value of another step';
const WITHIN = 'every one within ';
const NOTHING: ExpressionText = { text: '', refs: [] };

/** Which groups stand also without rows: for each key, where its values come from; each source is combined with every other. */
export function EveryGroupSentence({ bench, summary }: EveryGroupProps) {
  const { edit, withoutValues } = bench;
  const { step } = summary;
  const { every } = step;
  const set = (to: EveryGroup | undefined, ...more: readonly Edit[]) =>
    edit(...more, { kind: 'set step', step: step.id, property: 'every', from: every, to });
  const last = step.inputs.length > 1 ? withoutSlots(step) : [];
  return (
    <div className="mt-2">
      <p className="flex flex-wrap items-center gap-1.5">
        Groups stand
        <ChoiceSlot
          label="Groups without rows"
          value={every ? ALSO : NONE}
          choices={[NONE, ALSO]}
          disabled={withoutValues}
          onChange={(to) => (to === ALSO ? set({ parts: [], filledWith: 'null' }) : set(undefined, ...last))}
        />
        {every && (
          <>
            , and their figures are
            <ChoiceSlot
              label="Figures of groups without rows"
              value={every.filledWith === '0' ? '0 where they add up' : 'null'}
              choices={['null', '0 where they add up']}
              disabled={withoutValues}
              onChange={(to) => set({ ...every, filledWith: to === 'null' ? 'null' : '0' })}
            />
          </>
        )}
      </p>
      {every && (
        <ol aria-label="Where the groups come from" className="mt-1 border-t">
          {step.keys.map((key) => (
            <KeySource key={key.id} bench={bench} summary={summary} every={every} item={key} onEvery={set} />
          ))}
        </ol>
      )}
    </div>
  );
}

/** Everything that comes in besides the rows goes. */
const withoutSlots = ({ id, inputs }: CheckedOf<'summarise'>['step']): readonly Edit[] =>
  inputs
    .flatMap((input, slot): readonly Edit[] =>
      slot === 0 || input === null ? [] : [{ kind: 'set input', step: id, slot, from: input, to: null }],
    )
    .toReversed();

interface KeySourceProps extends EveryGroupProps {
  readonly every: EveryGroup;
  readonly item: SummaryKey;
  readonly onEvery: (to: EveryGroup, ...before: readonly Edit[]) => void;
}

/** One key: its values as the rows have them, of a span of days, of a parameter's range, or of another step. */
function KeySource({ bench, summary, every, item, onEvery }: KeySourceProps) {
  const { withoutValues } = bench;
  const { step, checked, problems } = summary;
  const [choosing, setChoosing] = useState(false);
  const { parameters } = bench.trail.definition;
  const part = every.parts.find((each) => keysOfPart(each).includes(item.id));
  const expression = checked.keys.find((each) => each.key.id === item.id)?.expression;
  const days = expression !== undefined && (isDay(expression.type) || expression.type.kind === 'whole');
  const ranges = parameters.filter((each) => each.takes === 'range' && (each.type === 'date' || each.type === 'date-time'));
  const name = item.name || 'this group';
  const rangeWord = (id: string) => `${WITHIN}:${ranges.find((each) => each.id === id)?.name ?? '…'}`;
  const value = !part
    ? TOGETHER
    : part.from === 'rows'
      ? ALONE
      : part.from === 'days'
        ? DAYS
        : part.from === 'step'
          ? STEP
          : rangeWord(part.parameter);
  const put = (to: GroupPart | undefined, ...before: readonly Edit[]) =>
    onEvery({ ...every, parts: [...every.parts.filter((each) => each !== part), ...(to ? [to] : [])] }, ...before);
  const emptied: readonly Edit[] =
    part?.from === 'step' && part.slot === step.inputs.length - 1
      ? [{ kind: 'set input', step: step.id, slot: part.slot, from: step.inputs[part.slot] ?? null, to: null }]
      : [];
  const choose = (to: string) => {
    if (to === value) return;
    if (to === STEP) return setChoosing(true);
    if (to === TOGETHER) return put(undefined, ...emptied);
    if (to === ALONE) return put({ from: 'rows', keys: [item.id] }, ...emptied);
    if (to === DAYS) return put({ from: 'days', key: item.id, since: NOTHING, until: NOTHING }, ...emptied);
    const range = ranges.find((each) => rangeWord(each.id) === to);
    if (range) put({ from: 'range', key: item.id, parameter: range.id }, ...emptied);
  };
  const end = (which: 'since' | 'until', label: string) =>
    part?.from === 'days' && (
      <TextSlot
        label={label}
        value={part[which].text}
        placeholder="2025-04-01"
        disabled={withoutValues}
        wrong={part[which].text === ''}
        onKeep={(typed) => put({ ...part, [which]: linkReferences(asDayText(typed), { schema: { fields: [] }, parameters }) })}
      />
    );
  const found = problems.filter((each) => each.place.field === item.id && each.code.startsWith('group-'));
  return (
    <li className="flex flex-wrap items-center gap-1.5 border-b py-1 pl-8">
      <span className="font-medium">{name}</span>
      <ChoiceSlot
        label={`Where ${name} comes from`}
        value={value}
        choices={[TOGETHER, ALONE, ...(days ? [DAYS, ...ranges.map((each) => rangeWord(each.id))] : []), STEP]}
        disabled={withoutValues}
        onChange={choose}
      />
      {part?.from === 'days' && (
        <>
          {end('since', `First day of ${name}`)} until {end('until', `Last day of ${name}`)}
        </>
      )}
      {part?.from === 'step' && (
        <>
          :
          <FieldSlot
            label={`Field whose values make ${name}`}
            schema={summary.arriving[part.slot]?.schema ?? { fields: [] }}
            field={summary.arriving[part.slot]?.schema.fields.find((each) => each.id === part.field)}
            missing={found.length > 0}
            disabled={withoutValues}
            onField={({ id }) => put({ ...part, field: id })}
          />
          <span className="text-ink-soft">of {summary.arriving[part.slot]?.grain.rows}</span>
        </>
      )}
      {found.map((problem, index) => (
        <span key={index} role="alert" className="text-rust">
          {problem.message}
        </span>
      ))}
      {choosing && <ValuesOf bench={bench} summary={summary} item={item} onPart={put} onDone={() => setChoosing(false)} />}
    </li>
  );
}

/** A plain day is a date, as the expression language writes it. */
const asDayText = (typed: string) => (/^\d{4}-\d{2}-\d{2}$/.test(typed.trim()) ? `date '${typed.trim()}'` : typed);

interface ValuesOfProps extends EveryGroupProps {
  readonly item: SummaryKey;
  readonly onPart: (to: GroupPart, ...before: readonly Edit[]) => void;
  readonly onDone: () => void;
}

/** Takes another step, or a table, whose values are groups; the field is found by its name. */
function ValuesOf({ bench, summary, item, onPart, onDone }: ValuesOfProps) {
  const { step } = summary;
  const { definition, steps } = bench.trail;
  const at = definition.steps.findIndex((each) => each.id === step.id);
  const choose = (partner: Partner) => {
    const { edits: table, step: id, arriving } = partnerInput(definition, bench.catalogue, partner, at);
    const { fields } = arriving.schema;
    const type = summary.checked.keys.find((each) => each.key.id === item.id)?.expression?.type;
    const alike = fields.filter((each) => each.type.kind === type?.kind);
    const suits = alike.find((each) => item.name.toLowerCase().includes(each.name.toLowerCase())) ?? alike[0];
    const slot = step.inputs.length;
    const part: GroupPart = { from: 'step', key: item.id, slot, field: suits?.id ?? '' };
    onPart(part, ...table, { kind: 'set input', step: step.id, slot, from: null, to: id });
  };
  return (
    <PartnerDialog
      bench={{ ...bench, trail: { ...bench.trail, steps: steps.slice(0, at) } }}
      after={summary}
      title={`Every value of ${item.name || 'the group'} there is in …`}
      onChoose={choose}
      onDone={onDone}
    />
  );
}
