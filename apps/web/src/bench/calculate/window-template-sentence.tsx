import { useState } from 'react';
import type { Schema, WindowTemplate } from '@cendra/core';
import { isNumber, needsOrder, WINDOW_TEMPLATES, windowTemplatePattern, writeWindowTemplate } from '@cendra/core';
import { Button } from '../../ui/button';
import { ChoiceSlot } from '../slots';

interface WordingSentenceProps {
  readonly schema: Schema;
  /** The expression, and the pattern its values are written by where it has one. */
  readonly onWrite: (text: string, pattern: string | undefined) => void;
  readonly onDone: () => void;
}

const NONE = 'all rows together';

/** What can be said in words: a sentence whose slots are filled, and which is then written as an expression. */
export function WindowTemplateSentence({ schema, onWrite, onDone }: WordingSentenceProps) {
  const numbers = schema.fields.filter((each) => isNumber(each.type) && each.role !== 'key').map((each) => each.name);
  const names = schema.fields.map((each) => each.name);
  const days = schema.fields.filter((each) => each.role === 'date').map((each) => each.name);
  const key = schema.fields.find((each) => each.role === 'key')?.name;
  const [template, setTemplate] = useState<WindowTemplate>('share of the total');
  const [of, setOf] = useState(numbers[0] ?? '');
  const [each, setEach] = useState(NONE);
  const [by, setBy] = useState(days[0] ?? key ?? names[0] ?? '');
  const ready = of !== '' && (!needsOrder(template) || by !== '');
  const write = () => {
    onWrite(
      writeWindowTemplate(template, {
        of,
        ...(each === NONE ? {} : { each }),
        ...(needsOrder(template) ? { by, ...(key === undefined ? {} : { key }) } : {}),
      }),
      windowTemplatePattern(template),
    );
    onDone();
  };
  return (
    <div
      className="flex flex-wrap items-center gap-1 border-t bg-panel px-2 py-1"
      onKeyDown={(event) => event.key === 'Escape' && onDone()}
    >
      The <ChoiceSlot label="What is calculated" value={template} choices={WINDOW_TEMPLATES} onChange={setTemplate} /> of
      <ChoiceSlot label="Of which field" value={of} choices={template === 'rank' ? names : numbers} empty="no number" onChange={setOf} />
      {needsOrder(template) && (
        <>
          , in the order of <ChoiceSlot label="In which order" value={by} choices={names} onChange={setBy} />
        </>
      )}
      , over
      <ChoiceSlot label="Over which rows" value={each} choices={[NONE, ...names]} onChange={setEach} />
      {each !== NONE && 'by itself'}
      <Button small kind="primary" disabled={!ready} onClick={write}>
        Write it
      </Button>
      <Button small kind="quiet" onClick={onDone}>
        Leave
      </Button>
    </div>
  );
}
