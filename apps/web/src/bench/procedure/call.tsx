import { DialogTitle, Input } from '@headlessui/react';
import { useDeferredValue, useState } from 'react';
import type { CallAsked, DescribedRoutine } from '@cendra/core';
import { addParameter, callStep, placeAtEnd, sourcesOf } from '@cendra/core';
import type { RoutineDto } from '../../api';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { Overlay } from '../../ui/overlay';
import type { Taken } from '../../sources/try-routine';
import { TryRoutine } from '../../sources/try-routine';
import { mint } from '../mint';
import type { ChoosingProps } from '../step-kind';

/** Which function is called, found by part of its name; its rows stand on a lane of their own. */
export default function Call({ bench, onDone }: ChoosingProps) {
  const { definition } = bench.trail;
  const [source = ''] = sourcesOf(definition);
  const [typed, setTyped] = useState('');
  const [columns, setColumns] = useState('');
  const [chosen, setChosen] = useState<RoutineDto>();
  const sought = useDeferredValue(typed);
  const found = api.useRoutinesListQuery({ id: source, search: sought, limit: 100 });
  const [describe, describing] = api.useRoutinesDescribeMutation();
  const call = async ({ signature, columnsUnsaid }: RoutineDto, taken?: Taken) => {
    const said = columnsUnsaid ? { columns: columns.trim() } : {};
    const asked = taken ? { result: taken.result, given: [...taken.given] } : {};
    const { data } = await describe({ id: source, routineResultDto: { signature, ...said, ...asked } });
    if (!data || data.problems.length > 0) return;
    const made = callStep(definition, mint, source, data as unknown as DescribedRoutine, asked as CallAsked);
    const step = { ...made.step, ...said };
    let parameters = definition.parameters;
    const adding = made.parameters.map((each) => {
      const edit = addParameter({ parameters }, each);
      parameters = [...parameters, each];
      return edit;
    });
    bench.edit(...adding, { kind: 'add step', step, at: placeAtEnd(definition.steps), heirs: [] });
    bench.select(step.id);
    onDone();
  };
  const routines = (found.currentData ?? found.data)?.routines ?? [];
  // What gives no rows by itself is called once, to see what can be taken.
  const tried = chosen && (chosen.kind === 'procedure' || chosen.cursors) && (chosen.admitted || !chosen.mayWrite);
  return (
    <Overlay place="top" look="flex max-h-full w-[44rem] max-w-full flex-col" onClose={onDone}>
      <DialogTitle className="border-b px-3 py-2 font-medium">What a function or procedure gives</DialogTitle>
      <div className="border-b px-3 py-2">
        <Input
          autoFocus
          aria-label="Part of a function’s name"
          placeholder="part of a name, comment or argument"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="h-8 w-full rounded border bg-paper px-2"
        />
      </div>
      <ul aria-label="Functions and procedures" className="max-h-72 min-h-24 overflow-auto">
        {routines.map((each) => (
          <li key={each.signature}>
            <button
              type="button"
              aria-pressed={each.signature === chosen?.signature}
              onClick={() => setChosen(each)}
              className={`block w-full border-b px-3 py-1.5 text-left hover:bg-panel ${each.signature === chosen?.signature ? 'bg-panel' : ''}`}
            >
              {each.name}
              <span className="text-ink-soft">({each.arguments.map((own) => `${own.name} ${own.sourceType}`.trim()).join(', ')})</span>
              <span className="block truncate text-meta text-ink-soft">{each.comment || each.gives}</span>
            </button>
          </li>
        ))}
        {routines.length === 0 && !found.isFetching && (
          <li className="px-3 py-2 text-ink-soft">Nothing that may be called has that in its name.</li>
        )}
      </ul>
      {chosen?.columnsUnsaid && (
        <label className="block border-t px-3 py-2">
          <span className="block text-meta text-ink-soft">It does not say which columns its rows have. Their names and types:</span>
          <input
            value={columns}
            placeholder="code text, kilos numeric(8,2)"
            onChange={(event) => setColumns(event.target.value)}
            className="h-8 w-full rounded border bg-paper px-2 font-mono"
          />
        </label>
      )}
      {tried && (
        <div className="min-h-0 flex-1 overflow-auto border-t px-3 py-2">
          <TryRoutine
            key={chosen.signature}
            source={source}
            routine={chosen}
            columns={undefined}
            taking="Take these"
            busy={describing.isLoading}
            onTake={(taken) => void call(chosen, taken)}
          />
        </div>
      )}
      <div className="space-y-1 px-3 py-1 empty:hidden">
        <FailureNotice failure={failureOf(found.error ?? describing.error)} />
        {describing.data?.routine.signature === chosen?.signature &&
          describing.data?.problems.map((each, at) => <ProblemLine key={at} problem={each} />)}
      </div>
      <div className="flex justify-end gap-2 border-t px-3 py-2">
        <Button small onClick={onDone}>
          Leave it
        </Button>
        {!tried && (
          <Button
            small
            kind="primary"
            disabled={!chosen || describing.isLoading || (chosen.columnsUnsaid && columns.trim() === '')}
            onClick={() => chosen && void call(chosen)}
          >
            Call it
          </Button>
        )}
      </div>
    </Overlay>
  );
}
