import { useMemo } from 'react';
import type { Also, CheckedTrail, DayStretch, Level, Parameter, SheetField } from '@cendra/core';
import { columnsOfValues, equal, hasStretches, parameterTypeFor } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import type { Bench } from '../bench/use-bench';

interface AlsoSlotProps {
  readonly bench: Bench;
  readonly label: string;
  readonly level: Level;
  readonly field: SheetField | undefined;
  readonly locked: boolean;
  readonly onChange: (to: Also | undefined) => void;
}

const WITH_ROWS = 'with rows only';

/** Which groups a level has besides those there are rows of. */
export function AlsoSlot({ bench: { trail }, label, level, field, locked, onChange }: AlsoSlotProps) {
  const choices = useMemo(() => (field ? choicesFor(trail, level, field) : []), [trail, level, field]);
  const kept = choices.find((each) => equal(each.also, level.also ?? null));
  if (level.first !== undefined || (choices.length === 0 && !level.also)) return null;
  return (
    <ChoiceSlot
      label={label}
      value={level.also ? (kept?.says ?? 'also others, which are gone') : WITH_ROWS}
      choices={[WITH_ROWS, ...choices.map((each) => each.says)]}
      wrong={level.also !== undefined && !kept}
      disabled={locked}
      onChange={(said) => onChange(choices.find((each) => each.says === said)?.also)}
    />
  );
}

interface AlsoChoice {
  readonly says: string;
  readonly also: Also;
}

function choicesFor(trail: CheckedTrail, { field: id, stretch }: Level, field: SheetField): readonly AlsoChoice[] {
  const { parameters } = trail.definition;
  const spans: readonly AlsoChoice[] = stretch ? [{ says: `also each ${stretch} between`, also: { of: 'span' } }] : [];
  const fitting = parameters.filter(({ type }) => (hasStretches(field) ? type.startsWith('date') : type === parameterTypeFor(field.type)));
  // A day of a table's column is one day, and no stretch of them.
  const columns = stretch ? [] : columnsOfValues(trail, id);
  return [
    ...spans,
    ...fitting.flatMap((each) => ofParameter(each, stretch)),
    ...columns.map(({ step, field: of, name, title }): AlsoChoice => ({
      says: `also each ${name} of ${title}`,
      also: { of: 'field', step, field: of },
    })),
  ];
}

function ofParameter({ id, name, takes, choices }: Parameter, stretch: DayStretch | undefined): readonly AlsoChoice[] {
  if (takes === 'range') return stretch ? [{ says: `also each ${stretch} of :${name}`, also: { of: 'parameter', parameter: id } }] : [];
  return [
    ...(takes === 'several' ? [{ says: `also each value of :${name}`, also: { of: 'parameter' as const, parameter: id } }] : []),
    ...(choices?.from === 'typed' && !stretch
      ? [{ says: `also each choice of :${name}`, also: { of: 'choices' as const, parameter: id } }]
      : []),
  ];
}
