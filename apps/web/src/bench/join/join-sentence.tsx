import { Plus, X } from 'lucide-react';
import { Fragment, useState } from 'react';
import type { ComparedPair, ExpressionText, JoinPair, Schema } from '@cendra/core';
import {
  comparedPair,
  COMPARISONS,
  comparisonWords,
  fieldsInRole,
  linkReferences,
  partnerFields,
  slotPair,
  SWITCHES,
  switchWords,
  writtenPair,
} from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { mint } from '../mint';
import { ExpressionSlot, plainField } from '../expression-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { JoinProps } from './join-editor';
import { RowWordsSlot } from './row-words-slot';

/** “Each harvest meets its apiary where apiary code equals code.” Every part that can be changed is a slot. */
export function JoinSentence(props: JoinProps) {
  const { bench, join, change } = props;
  const { step, arriving } = join;
  const { withoutValues } = bench;
  const [fresh, setFresh] = useState<string>();
  const [left, right] = arriving;
  const partners = { fields: partnerFields(step, right?.schema ?? { fields: [] }) };
  const add = () => {
    const pair = comparedPair({ id: mint() });
    setFresh(pair.id);
    change.addPairs([pair]);
  };
  return (
    <section aria-label="Which rows meet">
      <div className="flex flex-wrap items-center gap-1">
        Each
        <RowWordsSlot bench={bench} label="What rows of the first side are called" words={left?.grain} table={tableOf(props, 0)} />
        {props.place.partner === undefined ? 'meets' : 'finds'} {step.everyPair && step.pairs.length === 0 ? 'every' : 'its'}
        <RowWordsSlot
          bench={bench}
          label="What the partners are called"
          words={step.role ?? right?.grain}
          partners={{
            role: step.role,
            onRole: (to) => change.setRole(to, left && right ? fieldsInRole(step, [left, right], to) : step.fields),
          }}
        />
        {step.pairs.length > 0 && 'where'}
        {step.everyPair && step.pairs.length === 0 && !withoutValues && (
          <Button small kind="quiet" onClick={() => change.set('everyPair', false)}>
            Take back every pair
          </Button>
        )}
      </div>
      <ol aria-label="Pairs" className="mt-1">
        {step.pairs.map((pair, index) => (
          <PairLine
            key={pair.id}
            {...props}
            pair={pair}
            number={index + 1}
            left={left?.schema ?? { fields: [] }}
            right={partners}
            fresh={fresh === pair.id}
          />
        ))}
      </ol>
      {!withoutValues && (
        <div className="mt-1 flex items-center gap-3">
          <Button small icon={Plus} onClick={add}>
            Add a pair
          </Button>
          <span className="text-meta text-ink-faint">F2 written form · a name that is no field is an expression</span>
        </div>
      )}
    </section>
  );
}

/** The table a side comes from, where it is one as it is read. */
function tableOf({ bench, join }: JoinProps, slot: number) {
  const input = join.step.inputs[slot];
  const found = bench.trail.definition.steps.find((each) => each.id === input);
  return found?.kind === 'table' ? found : undefined;
}

/** Why a pair has no other form. */
function whyStays(pair: JoinPair): string {
  if (pair.kind === 'written') return 'This condition stays written: two fields, one of each side, and how they compare, would be slots.';
  if (pair.overlooks.length > 0 || pair.nullsMeet)
    return 'It stays in slots: a written condition would not say what is overlooked, or that nulls meet.';
  return 'It stays in slots until both sides are there.';
}

interface PairLineProps extends JoinProps {
  readonly pair: JoinPair;
  readonly number: number;
  readonly left: Schema;
  readonly right: Schema;
  readonly fresh: boolean;
}

function PairLine({ bench, problems, change: changing, pair, number, left, right, fresh }: PairLineProps) {
  const { withoutValues, trail } = bench;
  const { parameters } = trail.definition;
  const found = problems.filter(({ place }) => place.clause === pair.id);
  const [stays, setStays] = useState<JoinPair>();
  const change = (to: JoinPair) => changing.putPair(pair, to);
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key !== 'F2' || withoutValues) return;
    event.preventDefault();
    if (document.activeElement instanceof HTMLInputElement) document.activeElement.blur();
    const both = { schema: { fields: [...left.fields, ...right.fields] }, parameters };
    const to =
      pair.kind === 'compared' ? writtenPair(pair, both) : slotPair(pair, { schema: left, parameters }, { schema: right, parameters });
    if (to) change(to);
    else setStays(pair);
  };
  return (
    <li className="border-b py-1" onKeyDownCapture={onKeyDown}>
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="figures w-6 shrink-0 text-right text-ink-soft">{number}</span>
        {pair.kind === 'written' ? (
          <TextSlot
            label={`Pair ${number}, a condition over both sides`}
            value={pair.expression.text}
            placeholder="a condition over both sides"
            look="font-mono"
            wrong={found.length > 0}
            disabled={withoutValues}
            onKeep={(text) =>
              change({ ...pair, expression: linkReferences(text, { schema: { fields: [...left.fields, ...right.fields] }, parameters }) })
            }
          />
        ) : (
          <ComparedSlots
            bench={bench}
            pair={pair}
            number={number}
            left={left}
            right={right}
            fresh={fresh}
            wrong={found.length > 0}
            onChange={change}
          />
        )}
        {!withoutValues && (
          <button
            type="button"
            aria-label={`Remove pair ${number}`}
            title="Remove the pair"
            onClick={() => changing.removePair(pair)}
            className="ml-auto p-1 text-ink-faint hover:text-ink"
          >
            <X size={16} strokeWidth={1.75} aria-hidden />
          </button>
        )}
      </div>
      {stays === pair && (
        <p className="pl-7 text-meta text-ink-soft" role="status">
          {whyStays(pair)}
        </p>
      )}
      {found.map((problem, index) => (
        <div key={index} className="flex flex-wrap items-center gap-2 pl-8" role="alert">
          <ProblemLine problem={problem} />
          {problem.code === 'pair-number' && pair.kind === 'compared' && (
            <Button small onClick={() => change({ ...pair, overlooks: [...pair.overlooks, 'number'] })}>
              Read the text as a number
            </Button>
          )}
          {problem.code === 'pair-days' && pair.kind === 'compared' && (
            <Button small onClick={() => change(asDates(pair, { schema: left, parameters }, { schema: right, parameters }))}>
              Compare them as dates
            </Button>
          )}
        </div>
      ))}
    </li>
  );
}

/** Both sides converted to dates. */
function asDates(
  pair: ComparedPair,
  left: Parameters<typeof linkReferences>[1],
  right: Parameters<typeof linkReferences>[1],
): ComparedPair {
  const cast = (source: ExpressionText, names: typeof left): ExpressionText =>
    source.text === '' ? source : linkReferences(`cast(${source.text} as date)`, names);
  return { ...pair, left: cast(pair.left, left), right: cast(pair.right, right), until: cast(pair.until, right) };
}

interface SlotsProps {
  readonly bench: JoinProps['bench'];
  readonly pair: ComparedPair;
  readonly number: number;
  readonly left: Schema;
  readonly right: Schema;
  readonly fresh: boolean;
  readonly wrong: boolean;
  readonly onChange: (to: ComparedPair) => void;
}

function ComparedSlots({ bench, pair, number, left, right, fresh, wrong, onChange }: SlotsProps) {
  const type = plainField(pair.left, left)?.type;
  const words = COMPARISONS.map((each) => comparisonWords(each, type));
  const texts = pair.comparison === '=';
  const side = (label: string, value: ExpressionText, schema: Schema, keep: (text: ExpressionText) => void, first = false) => (
    <ExpressionSlot
      bench={bench}
      label={`Pair ${number}, ${label}`}
      value={value}
      schema={schema}
      wrong={wrong}
      autoFocus={first && fresh}
      onKeep={keep}
    />
  );
  return (
    <>
      {side('first side', pair.left, left, (text) => onChange({ ...pair, left: text }), true)}
      <ChoiceSlot
        label={`Pair ${number}, how they are compared`}
        value={comparisonWords(pair.comparison, type)}
        choices={words}
        disabled={bench.withoutValues}
        onChange={(word) => {
          const comparison = COMPARISONS[words.indexOf(word)] ?? '=';
          onChange({ ...pair, comparison, overlooks: comparison === '=' ? pair.overlooks : [] });
        }}
      />
      {side('second side', pair.right, right, (text) => onChange({ ...pair, right: text }))}
      {pair.comparison === 'between' && (
        <>
          and
          {side('upper end', pair.until, right, (text) => onChange({ ...pair, until: text }))}
        </>
      )}
      {texts && pair.overlooks.length > 0 && <span className="text-ink-soft">whatever</span>}
      {texts &&
        SWITCHES.filter((each) => pair.overlooks.includes(each)).map((each, at) => (
          <Fragment key={each}>
            {at > 0 && <span className="text-ink-soft">and</span>}
            <button
              type="button"
              className="slot"
              disabled={bench.withoutValues}
              aria-label={`${switchWords(each)} is overlooked; press to heed it again`}
              onClick={() => onChange({ ...pair, overlooks: pair.overlooks.filter((other) => other !== each) })}
            >
              {switchWords(each)}
            </button>
          </Fragment>
        ))}
      {(pair.comparison === '=' || pair.comparison === 'between') && (
        <label className="flex items-center gap-1 text-meta text-ink-soft">
          <Tick
            checked={pair.nullsMeet}
            label={`Pair ${number}: ${pair.comparison === 'between' ? 'an end that is null is open' : 'null meets null'}`}
            disabled={bench.withoutValues}
            onChange={(nullsMeet) => onChange({ ...pair, nullsMeet })}
          />
          {pair.comparison === 'between' ? 'open where an end is null' : 'null meets null'}
        </label>
      )}
    </>
  );
}
