import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { Edit, Field, Period } from '@cendra/core';
import { addItem, isDay, periodAmounts, PERIODS } from '@cendra/core';
import { Button } from '../../ui/button';
import { Overlay } from '../../ui/overlay';
import { mint } from '../mint';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot } from '../slots';
import type { SheetProps } from './line-sheet-editor';

interface PeriodsProps extends SheetProps {
  readonly onDone: () => void;
}

const TODAY = 'today';

/** Three fields of figures at once: of a period, of the one before it, and their change. */
export function Periods({ bench, sheet, onDone }: PeriodsProps) {
  const { step, arriving } = sheet;
  const { parameters } = bench.trail.definition;
  const dated = parameters.filter((each) => each.type === 'date' && each.takes === 'one');
  const [period, setPeriod] = useState<Period>('season');
  const [asOf, setAsOf] = useState(TODAY);
  const [days, setDays] = useState<readonly (Field | undefined)[]>(() =>
    arriving.map(({ schema }) => schema.fields.find((each) => each.role === 'date') ?? schema.fields.find((each) => isDay(each.type))),
  );
  const parameter = dated.find((each) => `:${each.name}` === asOf);
  const make = () => {
    const made = periodAmounts(mint, step, arriving, parameters, { period, days, ...(parameter ? { asOf: parameter } : {}) });
    let next = step;
    const edits = made.map((amount): Edit => {
      const edit = addItem(next, 'amounts', amount, next.amounts.length);
      next = { ...next, amounts: [...next.amounts, amount] };
      return edit;
    });
    bench.edit(...edits);
    onDone();
  };
  return (
    <Overlay place="top" look="w-[34rem] max-w-full px-4 py-3" onClose={onDone}>
      <DialogTitle className="font-medium">A period, the one before, and the change</DialogTitle>
      <p className="mt-2 flex flex-wrap items-center gap-1.5">
        Figures of the
        <ChoiceSlot label="Period" value={period} choices={PERIODS} onChange={setPeriod} />
        of
        <ChoiceSlot
          label="Day that says which period"
          value={asOf}
          choices={[TODAY, ...dated.map((each) => `:${each.name}`)]}
          onChange={setAsOf}
        />
        , by
        {arriving.map(({ schema, grain }, slot) => (
          <span key={slot} className="inline-flex items-center gap-1">
            <FieldSlot
              label={`Day of ${grain.rows}`}
              schema={{ fields: schema.fields.filter((each) => isDay(each.type)) }}
              field={days[slot]}
              missing={false}
              disabled={false}
              onField={(field) => setDays(arriving.map((_each, at) => (at === slot ? field : days[at])))}
            />
            of {grain.rows}
          </span>
        ))}
      </p>
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onDone}>Cancel</Button>
        <Button kind="primary" disabled={days.every((each) => each === undefined)} onClick={make}>
          Make 3 figures
        </Button>
      </div>
    </Overlay>
  );
}
