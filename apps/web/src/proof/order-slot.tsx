import { useState } from 'react';
import type { Figure, Level, SheetField, Total } from '@cendra/core';
import { equal, hasStretches, isListed, MOST_LISTED, ordersGroups } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import type { Bench } from '../bench/use-bench';
import type { FieldWords } from './field-words';
import { WrittenOrder } from './written-order';

type Order = Pick<Level, 'descending' | 'by' | 'listed'>;

interface OrderSlotProps {
  readonly bench: Bench;
  /** The result the proof is of. */
  readonly result: string | undefined;
  readonly label: string;
  readonly order: Order & Pick<Level, 'field' | 'stretch'>;
  /** The levels its groups stand within, itself among them. */
  readonly within: readonly Level[];
  readonly totals: readonly Total[];
  readonly fields: readonly SheetField[];
  readonly words: FieldWords;
  readonly locked: boolean;
  readonly onChange: (to: Order) => void;
}

const ANOTHER = 'in an order of its own …';

/** In which order groups stand: that of their values, of one of the figures that are shown of them, or one that is written. */
export function OrderSlot({ bench, result, label, order, within, totals, fields, words, locked, onChange }: OrderSlotProps) {
  const [writing, setWriting] = useState(false);
  const field = fields.find((each) => each.id === order.field);
  const { listed } = order;
  const figures = [...totals, ...(order.by ? [order.by] : [])]
    .map(({ field, aggregate }): Figure => ({ field, aggregate }))
    .filter((each, index, all) => all.findIndex((other) => equal(other, each)) === index && ordersGroups(each, within, fields));
  const written = listed && isListed(order) ? [{ says: `as ${shortened(listed)}`, descending: false, by: undefined, listed }] : [];
  const choices: readonly (Order & { readonly says: string })[] = [
    { says: 'upwards', descending: false },
    { says: 'downwards', descending: true },
    ...written,
    ...figures.flatMap((by) =>
      [true, false].map((descending) => ({
        says: `by the ${by.aggregate} of ${words.of(by.field)}, ${descending ? 'most' : 'least'} first`,
        descending,
        by,
      })),
    ),
  ];
  const now = written[0] ?? choices.find((each) => each.descending === order.descending && equal(each.by ?? null, order.by ?? null));
  return (
    <>
      <ChoiceSlot
        label={label}
        value={now?.says ?? 'upwards'}
        choices={[...choices.map((each) => each.says), ...(field && !hasStretches(field) ? [ANOTHER] : [])]}
        disabled={locked}
        onChange={(says) => {
          if (says === ANOTHER) setWriting(true);
          const { says: _says, ...chosen } = choices.find((each) => each.says === says) ?? { says: '', descending: undefined };
          if (chosen.descending !== undefined) onChange({ ...chosen, descending: chosen.descending });
        }}
      />
      {writing && field && (
        <WrittenOrder
          bench={bench}
          field={field}
          result={result}
          listed={listed}
          onKeep={(to) => onChange({ descending: false, ...(to.length > 0 ? { listed: to.slice(0, MOST_LISTED) } : {}) })}
          onClose={() => setWriting(false)}
        />
      )}
    </>
  );
}

const shortened = (listed: readonly string[]) => `${listed.slice(0, 3).join(', ')}${listed.length > 3 ? ' …' : ''}`;

/** The same in another order. */
export function inOrder({ by: _by, listed: _listed, ...of }: Level, to: Order): Level {
  return { ...of, ...to };
}
