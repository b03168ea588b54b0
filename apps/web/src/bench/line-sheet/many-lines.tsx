import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { Edit, ExpressionText, Field, FieldType, LineFigure } from '@cendra/core';
import { addItem, firstArriving, freeName, linkReferences, nextLine, SHEET_LINE_KINDS, writtenName } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { Overlay } from '../../ui/overlay';
import { mint } from '../mint';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot } from '../slots';
import type { SheetProps } from './line-sheet-editor';

/** A value as a condition has it; undefined for types whose values are not written out. */
function writtenValue(type: FieldType, value: string): string | undefined {
  if (type.kind === 'text') return `'${value.replaceAll("'", "''")}'`;
  if (type.kind === 'date') return `date '${value}'`;
  return type.kind === 'whole' || type.kind === 'decimal' || type.kind === 'yesno' ? value : undefined;
}

const LINES = 'a line';
const AMOUNTS = 'figures';

interface ManyLinesProps extends SheetProps {
  readonly onDone: () => void;
}

/** One line, or one field of figures, for each value a field has in the rows that arrive. */
export function ManyLines({ bench, sheet, onDone }: ManyLinesProps) {
  const { step } = sheet;
  const { schema } = firstArriving(sheet);
  const [field, setField] = useState<Field>();
  const [made, setMade] = useState<typeof LINES | typeof AMOUNTS>(LINES);
  const question = field && { kind: 'values' as const, step: step.id, field: field.id, search: '' };
  const { answer, failure } = useAnswer(bench, question);
  const values = [...(answer?.values ?? [])].toSorted((a, b) => (a.label || a.value).localeCompare(b.label || b.value));
  const { parameters } = bench.trail.definition;
  const told = step.lines.findLast(({ figure }) => figure.from === 'rows')?.figure;
  const model: LineFigure & { from: 'rows' } =
    told?.from === 'rows' && told.slot === 0 ? told : { from: 'rows', slot: 0, aggregate: 'rows', expression: NOTHING, among: NOTHING };
  const among = (of: Field, value: string): ExpressionText =>
    linkReferences(`${writtenName('field', of.name)} = ${writtenValue(of.type, value) ?? ''}`, { schema, parameters });
  const make = () => {
    if (!field) return;
    const edits = made === LINES ? lines(field) : amounts(field);
    bench.edit(...edits);
    onDone();
  };
  const unsuited = field !== undefined && writtenValue(field.type, '') === undefined;
  return (
    <Overlay place="top" look="w-[34rem] max-w-full px-4 py-3" onClose={onDone}>
      <DialogTitle className="font-medium">One for each value</DialogTitle>
      <p className="mt-2 flex flex-wrap items-center gap-1.5">
        Make
        <ChoiceSlot label="What is made for each value" value={made} choices={[LINES, AMOUNTS]} onChange={setMade} />
        for each value of
        <FieldSlot
          label="Field of the values"
          schema={schema}
          field={field}
          missing={false}
          disabled={false}
          autoFocus
          onField={setField}
        />
      </p>
      <p aria-live="polite" className="mt-2 min-h-6 text-ink-soft">
        {unsuited && 'Values of this type are not written into a condition.'}
        {answer &&
          !unsuited &&
          `${values.map((each) => each.label || each.value).join(', ')}${answer.more ? ' and more: only the 50 with most rows' : ''}`}
      </p>
      {failure && <FailureNotice failure={failure} />}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onDone}>Cancel</Button>
        <Button kind="primary" disabled={values.length === 0 || unsuited} onClick={make}>
          {`Make ${values.length} ${made === LINES ? 'lines' : 'figures'}`}
        </Button>
      </div>
    </Overlay>
  );

  function lines(of: Field): readonly Edit[] {
    let next = step;
    return values.map(({ value, label }): Edit => {
      const line = nextLine(mint, next, {
        wording: label || value,
        level: 1,
        kind: SHEET_LINE_KINDS[0],
        figure: { ...model, among: among(of, value) },
      });
      const edit = addItem(next, 'lines', line, next.lines.length);
      next = { ...next, lines: [...next.lines, line] };
      return edit;
    });
  }

  function amounts(of: Field): readonly Edit[] {
    let next = step;
    return values.map(({ value, label }): Edit => {
      const names = new Set([...Object.values(next.names), ...next.amounts].map((each) => each.name));
      const amount = {
        id: mint(),
        name: freeName(label || value, names),
        text: mint(),
        format: '',
        of: { from: 'rows' as const, among: [among(of, value)] },
      };
      const edit = addItem(next, 'amounts', amount, next.amounts.length);
      next = { ...next, amounts: [...next.amounts, amount] };
      return edit;
    });
  }
}

const NOTHING: ExpressionText = { text: '', refs: [] };
