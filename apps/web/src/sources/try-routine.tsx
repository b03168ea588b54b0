import type { MouseEvent } from 'react';
import { useEffect, useRef, useState } from 'react';
import type { CallResult, RoutineEntry } from '@cendra/core';
import { cursorArguments, resultWords } from '@cendra/core';
import type { CalledResultDto, GivenDto, RoutineDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { grouped } from '../ui/format';
import { FailureNotice, ProblemLine } from '../ui/notice';
import { Said } from '../ui/said';
import { TextRows } from '../ui/text-rows';

/** What is taken of a call, and with which values it was tried. */
export interface Taken {
  readonly result: CallResult;
  readonly given: readonly GivenDto[];
}

interface TryRoutineProps {
  readonly source: string;
  readonly routine: RoutineDto;
  /** Said of one that does not say its columns. */
  readonly columns: string | undefined;
  /** What taking one of its results is called. */
  readonly taking: string;
  readonly busy: boolean;
  readonly onTake: (taken: Taken) => void;
}

/** A routine called once with typed values: what it said and each thing it gave. All of it is taken back. */
export function TryRoutine({ source, routine, columns, taking, busy, onTake }: TryRoutineProps) {
  const { name, signature, arguments: taken } = routine;
  const [typed, setTyped] = useState<readonly string[]>([]);
  const [tryOut, trying] = api.useRoutinesTryOutMutation();
  const under = useRef<ReturnType<typeof tryOut>>(undefined);
  const [stopped, setStopped] = useState(false);
  // Nobody waits for a call whose screen is left.
  useEffect(() => () => under.current?.abort(), []);
  const stop = (event: MouseEvent) => {
    // The button calls again by then, and this click is no such wish.
    event.preventDefault();
    setStopped(true);
    under.current?.abort();
  };
  const given = taken.map((each, at): GivenDto => {
    const value = typed[at] ?? '';
    if (value !== '') return { by: 'value', value };
    return { by: each.startsAs === null ? 'null' : 'default' };
  });
  const cursors = cursorArguments(routine as unknown as RoutineEntry);
  const asked = taken.flatMap((argument, at) => (cursors.has(at) ? [] : [{ argument, at }]));
  const { data } = trying;
  return (
    <section aria-label="Try it">
      <h3 className="font-medium">Try it</h3>
      <form
        className="mt-1 flex flex-wrap items-end gap-x-4 gap-y-2"
        onSubmit={(event) => {
          event.preventDefault();
          setStopped(false);
          under.current = tryOut({ id: source, routineTriedDto: { signature, given, ...(columns === undefined ? {} : { columns }) } });
        }}
      >
        {asked.map(({ argument: each, at }) => (
          <label key={at} className="block">
            <span className="block text-meta text-ink-soft">
              {each.name || `argument ${at + 1}`}, {each.sourceType}
            </span>
            <input
              value={typed[at] ?? ''}
              placeholder={each.startsAs ?? 'null'}
              onChange={(event) => setTyped(taken.map((_each, index) => (index === at ? event.target.value : (typed[index] ?? ''))))}
              className="h-8 w-44 rounded border bg-paper px-2"
            />
          </label>
        ))}
        {/* One button, so that the focus stays where it is. */}
        <Button type={trying.isLoading ? 'button' : 'submit'} onClick={trying.isLoading ? stop : undefined}>
          {trying.isLoading ? 'Stop it' : 'Call it once'}
        </Button>
        {trying.isLoading && (
          <span role="status" className="pb-1.5 text-ink-soft">
            Calling {name} …
          </span>
        )}
        {stopped && !trying.isLoading && (
          <span role="status" className="pb-1.5 text-ink-soft">
            It was stopped.
          </span>
        )}
      </form>
      <p className="mt-1 text-meta text-ink-soft">Whatever it does is taken back when it is over.</p>
      {!stopped && <FailureNotice failure={failureOf(trying.error)} />}
      {data?.problems.map((each, at) => (
        <div key={at} role="alert">
          <ProblemLine problem={each} />
        </div>
      ))}
      {data && (
        <div className="mt-2 empty:hidden">
          <Said label="What it said" messages={data.messages} />
        </div>
      )}
      {data?.results.map((each, at) => (
        <Result key={at} gave={each} taking={taking} busy={busy} onTake={() => onTake({ result: each.result as CallResult, given })} />
      ))}
      {data?.problems.length === 0 && (
        <p role="status" className="mt-2 text-meta text-ink-soft">
          {data.results.length === 0 ? 'It gave nothing that could be read' : 'It ran'}, in {grouped(data.ms ?? 0)} ms.
        </p>
      )}
    </section>
  );
}

interface ResultProps {
  readonly gave: CalledResultDto;
  readonly taking: string;
  readonly busy: boolean;
  readonly onTake: () => void;
}

function Result({ gave: { result, columns, rows, count }, taking, busy, onTake }: ResultProps) {
  const words = resultWords(result as CallResult);
  const many = count === null || Number(count) > rows.length;
  return (
    <div className="mt-3">
      <p className="flex flex-wrap items-center gap-2">
        <span className="font-medium">{`${words.charAt(0).toUpperCase()}${words.slice(1)}`}</span>
        <span className="text-ink-soft">
          {many
            ? `the first ${rows.length}${count === null ? '' : ` of ${grouped(count)}`}`
            : `${grouped(count)} ${count === '1' ? 'row' : 'rows'}`}
        </span>
        <Button small disabled={busy || columns.length === 0} onClick={onTake}>
          {taking}
        </Button>
      </p>
      <TextRows label={words} names={columns.map((each) => each.column)} rows={rows} />
    </div>
  );
}
