import { useState } from 'react';
import type { Field, JoinEvidence, PartnerOrder, WorstKey } from '@cendra/core';
import { breaksGrain, comparedPair, fieldById, partnerFields, summariseFirstEdits } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { CellText } from '../../ui/cell';
import { mint } from '../mint';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { JoinProps } from './join-editor';
import { MorePairs } from './more-pairs';
import { RowsButton } from './rows-button';
import type { SideWords } from './sides';
import { severalOf } from './sides';

interface MultipliedProps extends JoinProps {
  readonly evidence: JoinEvidence;
  readonly left: SideWords;
  readonly right: SideWords;
}

/** Rows that meet several: how many, the worst keys, and what can be done about it. */
export function Multiplied(props: MultipliedProps) {
  const { bench, join, evidence, left, right } = props;
  const { step } = join;
  const several = severalOf(evidence.left);
  const possible = several.rows !== '0' || breaksGrain(step, join.checked.many);
  if (!possible && step.one === null) return null;
  const matched = evidence.left.partners.reduce((sum, each) => sum + BigInt(each.rows), 0n);
  const dropped = BigInt(evidence.met) - matched;
  return (
    <section aria-label="Rows multiplied" className="mt-3">
      <h3 className="font-medium">{step.one ? 'One partner is kept per row' : 'Rows multiplied'}</h3>
      {several.rows === '0' && step.one === null && <p>No row is now, but no key rules it out.</p>}
      <p className="figures">
        {evidence.left.partners.map((each) => `${grouped(each.rows)} ${left.rows} have ${partnerWords(each.partners, right)}`).join('; ')}.
        {' The other way round, '}
        {evidence.right.partners.map((each) => `${grouped(each.rows)} ${right.rows} have ${partnerWords(each.partners, left)}`).join('; ')}.
      </p>
      <WorstKeys evidence={evidence} onRows={({ values }, words) => props.onOutcome('several', `${left.rows} with ${words}`, { values })} />
      {step.one && (
        <p className="figures mt-1">
          {grouped(dropped)} {right.rows} that meet a row are not kept with it.
          <PartnerTies bench={bench} place={props.place} rows={left.rows} />
        </p>
      )}
      {!bench.withoutValues && step.one === null && several.rows !== '0' && (
        <div className="mt-2 flex flex-wrap gap-2">
          <MorePairs {...props} />
        </div>
      )}
      {!bench.withoutValues && <Remedies {...props} onSummarise={canSummarise(props) ? () => summariseFirst(props) : undefined} />}
    </section>
  );
}

/** Where the order leaves open which partner is kept, in how many rows it does. */
function PartnerTies({ bench, place, rows }: Pick<JoinProps, 'bench' | 'place'> & { readonly rows: string }) {
  const { answer } = useAnswer(bench, bench.withoutValues ? undefined : { kind: 'partner ties', ...place });
  if (!answer || answer.rows === '0') return null;
  return (
    <span className="text-amber">
      {' '}
      In {grouped(answer.rows)} {rows} several are the first by that order, and any of them is kept.
    </span>
  );
}

interface WorstKeysProps {
  readonly evidence: JoinEvidence;
  /** Shows the rows of a key, `words` say which it is; left out where they cannot be shown. */
  readonly onRows?: (key: WorstKey, words: string) => void;
}

/** The keys with most partners. */
export function WorstKeys({ evidence, onRows }: WorstKeysProps) {
  if (evidence.worst.length === 0) return null;
  return (
    <table className="mt-1 w-full border-t" aria-label="Worst keys">
      <thead className="text-left text-meta text-ink-soft">
        <tr className="border-b">
          {evidence.by.map((each, at) => (
            <th key={at} className="py-0.5 font-normal">
              {each}
            </th>
          ))}
          <th className="w-24 text-right font-normal">rows</th>
          <th className="w-24 text-right font-normal">partners each</th>
        </tr>
      </thead>
      <tbody>
        {evidence.worst.map((each, at) => (
          <tr key={at} className="border-b">
            {each.values.map((value, index) => (
              <td key={index} className="py-0.5">
                <CellText text={value} />
              </td>
            ))}
            <td className="figures text-right">
              <RowsButton
                rows={each.rows}
                of={keyWords(evidence.by, each)}
                onRows={each.values.length > 0 && onRows ? (words) => onRows(each, words) : undefined}
              />
            </td>
            <td className="figures text-right">{grouped(each.partners)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const keyWords = (by: readonly string[], { values }: WorstKey) =>
  values.map((value, at) => [by[at], value ?? 'null'].filter(Boolean).join(' ')).join(', ');

const partnerWords = (partners: string, { row, rows }: SideWords) =>
  partners === '1' ? `1 ${row}` : partners === 'more' ? `more than 5 ${rows}` : `${partners} ${rows}`;

const canSummarise = ({ bench, place, join }: JoinProps) =>
  place.partner === undefined && join.step.one === null && summariseFirstEdits(mint, bench.trail, place.step) !== undefined;

/** The second side becomes one row per key; the summary is opened, so that its figures are chosen. */
function summariseFirst({ bench, place }: JoinProps): void {
  const made = summariseFirstEdits(mint, bench.trail, place.step);
  if (!made) return;
  bench.edit(...made.edits);
  bench.select(made.step);
}

/** Each is one edit, and undone as one. */
interface RemediesProps extends Pick<JoinProps, 'join' | 'change'> {
  readonly withNote?: boolean;
  /** Left out where the second side cannot be summarised first. */
  readonly onSummarise?: (() => void) | undefined;
}

export function Remedies({ join, change, withNote = true, onSummarise }: RemediesProps) {
  const { step, arriving } = join;
  const [ordering, setOrdering] = useState(false);
  const partners = partnerFields(step, arriving[1]?.schema ?? { fields: [] });
  const addPair = () => change.addPairs([comparedPair({ id: mint() })]);
  return (
    <div className="mt-2 space-y-1">
      {step.one ? (
        <OnePartner step={step} partners={partners} onChange={(to) => change.set('one', to)} />
      ) : (
        <div className="flex flex-wrap items-center gap-2">
          <Button small onClick={addPair}>
            Add a pair
          </Button>
          {ordering ? (
            <span className="flex items-center gap-1">
              Keep one partner per row, the first by
              <FieldSlot
                label="Which partner is kept, the first by"
                schema={{ fields: partners }}
                field={undefined}
                missing={false}
                disabled={false}
                autoFocus
                onField={({ id }) => {
                  setOrdering(false);
                  change.set('one', [{ field: id, descending: false }]);
                }}
              />
              <Button small kind="quiet" onClick={() => setOrdering(false)}>
                Leave it
              </Button>
            </span>
          ) : (
            <Button small onClick={() => setOrdering(true)}>
              Keep one partner per row …
            </Button>
          )}
          {onSummarise && (
            <Button small onClick={onSummarise}>
              Summarise that side first
            </Button>
          )}
        </div>
      )}
      {!step.one && withNote && (
        <p className="flex flex-wrap items-center gap-1">
          It is meant, because
          <TextSlot
            label="Why it is right that rows are multiplied"
            value={step.accepted}
            placeholder="a note that stays with the join"
            disabled={false}
            onKeep={(text) => change.set('accepted', text.trim())}
          />
        </p>
      )}
    </div>
  );
}

const WAYS = ['least first', 'greatest first'] as const;

function OnePartner({
  step,
  partners,
  onChange,
}: {
  readonly step: JoinProps['join']['step'];
  readonly partners: readonly Field[];
  readonly onChange: (to: readonly PartnerOrder[] | null) => void;
}) {
  const order = step.one ?? [];
  const change = (at: number, to: PartnerOrder | undefined) => {
    const next = order.flatMap((each, index) => (index === at ? (to ?? []) : each));
    onChange(at === order.length && to ? [...order, to] : next);
  };
  return (
    <p className="flex flex-wrap items-center gap-1">
      The partner kept is the first by
      {order.map((each, at) => (
        <span key={at} className="flex items-center gap-1">
          {at > 0 && 'then'}
          <FieldSlot
            label={`Field ${at + 1} the kept partner is chosen by`}
            schema={{ fields: partners }}
            field={fieldById({ fields: partners }, each.field)}
            missing={!partners.some(({ id }) => id === each.field)}
            disabled={false}
            onField={({ id }) => change(at, { ...each, field: id })}
          />
          <ChoiceSlot
            label={`Way of field ${at + 1}`}
            value={each.descending ? WAYS[1] : WAYS[0]}
            choices={WAYS}
            onChange={(way) => change(at, { ...each, descending: way === WAYS[1] })}
          />
        </span>
      ))}
      <Button
        small
        kind="quiet"
        onClick={() => {
          const next = partners.find(({ id }) => !order.some((each) => each.field === id));
          if (next) change(order.length, { field: next.id, descending: false });
        }}
      >
        then by …
      </Button>
      <Button small onClick={() => onChange(null)}>
        Keep all partners
      </Button>
    </p>
  );
}
