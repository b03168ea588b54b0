import type { Figure, Level, SheetField, Total } from '@cendra/core';
import { equal, ordersGroups } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import type { FieldWords } from './field-words';

type Order = Pick<Level, 'descending' | 'by'>;

interface OrderSlotProps {
  readonly label: string;
  readonly order: Order;
  /** The levels its groups stand within, itself among them. */
  readonly within: readonly Level[];
  readonly totals: readonly Total[];
  readonly fields: readonly SheetField[];
  readonly words: FieldWords;
  readonly locked: boolean;
  readonly onChange: (to: Order) => void;
}

/** In which order groups stand: that of their values, or of one of the figures that are shown of them. */
export function OrderSlot({ label, order, within, totals, fields, words, locked, onChange }: OrderSlotProps) {
  const figures = [...totals, ...(order.by ? [order.by] : [])]
    .map(({ field, aggregate }): Figure => ({ field, aggregate }))
    .filter((each, index, all) => all.findIndex((other) => equal(other, each)) === index && ordersGroups(each, within, fields));
  const choices = [
    { says: 'upwards', descending: false, by: undefined },
    { says: 'downwards', descending: true, by: undefined },
    ...figures.flatMap((by) =>
      [true, false].map((descending) => ({
        says: `by the ${by.aggregate} of ${words.of(by.field)}, ${descending ? 'most' : 'least'} first`,
        descending,
        by,
      })),
    ),
  ];
  const now = choices.find((each) => each.descending === order.descending && equal(each.by ?? null, order.by ?? null));
  return (
    <ChoiceSlot
      label={label}
      value={now?.says ?? 'upwards'}
      choices={choices.map((each) => each.says)}
      disabled={locked}
      onChange={(says) => {
        const chosen = choices.find((each) => each.says === says);
        if (chosen) onChange({ descending: chosen.descending, ...(chosen.by ? { by: chosen.by } : {}) });
      }}
    />
  );
}

/** The same in another order. */
export function inOrder<L extends Order>({ by: _by, ...of }: L, to: Order): Omit<L, 'by'> & Order {
  return { ...of, ...to };
}
