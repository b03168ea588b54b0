import type { Aggregate, Beside, Edit, SheetField, Total } from '@cendra/core';
import { besidesOf } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import { Away } from './away';
import type { FieldChoices } from './field-or-expression';
import { FieldOrExpression } from './field-or-expression';

/** A total with what stands beside it. */
function withBeside({ beside: _old, ...total }: Total, beside: readonly Beside[]): Total {
  return beside.length === 0 ? total : { ...total, beside };
}

interface BesideSlotsProps {
  readonly total: Total;
  readonly number: number;
  readonly field: SheetField | undefined;
  /** Whether there are columns per value. */
  readonly across: boolean;
  readonly locked: boolean;
  readonly onChange: (to: readonly Beside[]) => void;
}

/** What stands beside a figure, each taken away by itself; what can is offered behind. */
function BesideSlots({ total, number, field, across, locked, onChange }: BesideSlotsProps) {
  const known = total.beside ?? [];
  const free = besidesOf(total, field, across).filter((each) => !known.includes(each));
  return (
    <>
      {known.map((each, at) => (
        <span key={each} className="inline-flex items-center">
          {at === 0 ? 'with its' : 'and'} {BESIDE_SAID[each]}
          <Away
            label={`Without the ${BESIDE_SAID[each]} beside total ${number}`}
            hidden={locked}
            onClick={() => onChange(known.filter((other) => other !== each))}
          />
        </span>
      ))}
      {!locked && free.length > 0 && (
        <ChoiceSlot
          label={`Beside total ${number}`}
          value=""
          empty={known.length === 0 ? 'and beside it …' : '…'}
          choices={free.map((each) => BESIDE_SAID[each])}
          onChange={(said) => {
            const kind = free.find((each) => BESIDE_SAID[each] === said);
            if (kind) onChange([...known, kind]);
          }}
        />
      )}
    </>
  );
}

const BESIDE_SAID: Readonly<Record<Beside, string>> = {
  share: 'share of the group above',
  difference: 'difference to the group before',
  change: 'change to the group before in percent',
  'running total': 'running total',
  rank: 'rank',
  'difference across': 'difference to the column before',
  'change across': 'change to the column before in percent',
};

interface TotalsSentenceProps extends FieldChoices {
  readonly totals: readonly Total[];
  readonly across: boolean;
  /** With the edits by which a field comes to be handed over. */
  readonly onChange: (to: readonly Total[], before?: readonly Edit[]) => void;
}

/** Only what the role of a field allows is offered. */
export function TotalsSentence({ totals, across, onChange, handed, more, ...choices }: TotalsSentenceProps) {
  const fieldOf = (id: string) => handed.find((each) => each.id === id);
  const { words, locked } = choices;
  const unused = handed.flatMap((field) =>
    field.aggregates
      .filter((aggregate) => !totals.some((each) => each.field === field.id && each.aggregate === aggregate))
      .map((aggregate): Total => ({ field: field.id, aggregate })),
  );
  const first = unused.find(({ field }) => fieldOf(field)?.role === 'measure') ?? unused[0];
  return (
    <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
      <span className="text-ink-soft">{totals.length === 0 ? 'Nothing is totalled.' : 'Totals:'}</span>
      {totals.map((total, index) => {
        const field = fieldOf(total.field);
        const change = (to: Partial<Total>, before?: readonly Edit[]) =>
          onChange(
            totals.map((each, at) => (at === index ? { ...each, ...to } : each)),
            before,
          );
        return (
          <span key={`${total.field} ${total.aggregate}`} className="inline-flex items-center gap-1">
            <ChoiceSlot
              label={`Total ${index + 1}`}
              value={total.aggregate}
              choices={field?.aggregates ?? []}
              disabled={locked}
              onChange={(aggregate: Aggregate) => change({ aggregate })}
            />
            of
            <FieldOrExpression
              {...choices}
              label={`Field of total ${index + 1}`}
              value={total.field}
              offered={[...handed, ...more].flatMap((each) => (each.aggregates.length > 0 ? [each.id] : []))}
              onField={({ id, aggregates }, before) => {
                const [first] = aggregates;
                if (first) change({ field: id, aggregate: aggregates.includes(total.aggregate) ? total.aggregate : first }, before);
              }}
            />
            <BesideSlots
              total={total}
              number={index + 1}
              field={field}
              across={across}
              locked={locked}
              onChange={(beside) => onChange(totals.map((each, at) => (at === index ? withBeside(each, beside) : each)))}
            />
            <Away
              label={`Leave out the ${total.aggregate} of ${words.of(total.field)}`}
              hidden={locked}
              onClick={() => onChange(totals.toSpliced(index, 1))}
            />
          </span>
        );
      })}
      {!locked && first && (
        <Button small kind="quiet" onClick={() => onChange([...totals, first])}>
          Add a total
        </Button>
      )}
    </p>
  );
}
