import { useState } from 'react';
import type { RoutineDto, SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { useBegin } from '../datasets/use-begin';
import { MadeBefore } from '../kept-routines/made-before';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { SourceText } from './source-text';
import { TryRoutine } from './try-routine';

interface RoutineViewProps {
  readonly source: SourceDto;
  readonly routine: RoutineDto;
}

/** One routine of a source: what it takes and gives, whether it may run here, and its text. */
export function RoutineView({ source, routine }: RoutineViewProps) {
  const {
    schema,
    name,
    signature,
    kind,
    gives,
    comment,
    arguments: taken,
    columnsUnsaid,
    cursors,
    mayWrite,
    withOwnersRights,
    admitted,
  } = routine;
  const mayRun = admitted || !(mayWrite || withOwnersRights);
  const text = api.useRoutinesTextQuery({ id: source.id, signature });
  const { beginCall, beginning, failure } = useBegin();
  const [columns, setColumns] = useState('');
  const asked = { signature, ...(columnsUnsaid ? { columns: columns.trim() } : {}) };
  return (
    <article className="space-y-4 p-4" aria-label={`${kind} ${name}`}>
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-section font-medium">
          <span className="text-ink-faint">{schema}.</span>
          {name}
        </h2>
        <span className="text-ink-soft">{kind}</span>
        {kind === 'function' && !cursors && (
          <div className="ml-auto">
            <Button
              kind="primary"
              disabled={beginning || (columnsUnsaid && columns.trim() === '')}
              onClick={() => void beginCall(source.id, asked)}
            >
              Start a dataset from it
            </Button>
          </div>
        )}
      </div>
      {comment !== '' && <p>{comment}</p>}
      <FailureNotice failure={failure} />
      <MayRun source={source} routine={routine} />
      {columnsUnsaid && (
        <label className="block">
          <span className="block text-meta text-ink-soft">It does not say which columns its rows have. Their names and types:</span>
          <input
            value={columns}
            placeholder="code text, kilos numeric(8,2)"
            onChange={(event) => setColumns(event.target.value)}
            className="h-8 w-full max-w-xl rounded border bg-paper px-2 font-mono"
          />
        </label>
      )}
      <section aria-label="Arguments">
        <h3 className="font-medium">Takes</h3>
        {taken.length === 0 ? (
          <p className="text-ink-soft">nothing</p>
        ) : (
          <table className="border-t">
            <thead className="text-left text-meta text-ink-soft">
              <tr className="border-b">
                <th className="w-48 py-1 font-normal">argument</th>
                <th className="w-40 font-normal">type</th>
                <th className="font-normal">without a value</th>
              </tr>
            </thead>
            <tbody>
              {taken.map((each, at) => (
                <tr key={at} className="border-b">
                  <td className="py-1">{each.name || `argument ${at + 1}`}</td>
                  <td className="pr-4 text-ink-soft">{each.sourceType}</td>
                  <td className={each.startsAs === null ? 'text-ink-soft' : 'font-mono text-meta'}>{each.startsAs ?? 'is needed'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
      <section aria-label="Result">
        <h3 className="font-medium">Gives</h3>
        <p className="font-mono text-meta">{gives || 'nothing'}</p>
      </section>
      {mayRun && (!columnsUnsaid || columns.trim() !== '') && (
        <TryRoutine
          key={signature}
          source={source.id}
          routine={routine}
          columns={columnsUnsaid ? columns.trim() : undefined}
          taking="Start a dataset from these"
          busy={beginning}
          onTake={({ result, given }) =>
            void beginCall(source.id, { ...asked, ...(mayWrite || result.of !== 'rows' ? { result } : {}), given: [...given] })
          }
        />
      )}
      <MadeBefore source={source.id} signature={signature} />
      <SourceText of={name} text={text.data?.text} failure={failureOf(text.error)} />
    </article>
  );
}

/** Why a routine does not run by itself, and the steward’s word that it may. */
function MayRun({ source, routine: { signature, kind, mayWrite, withOwnersRights, admitted } }: RoutineViewProps) {
  const steward = api.usePeopleMeQuery().data?.role === 'steward';
  const all = api.useRoutinesListQuery({ id: source.id, search: '', limit: 1000 }, { skip: !steward });
  const [admit, admitting] = api.useRoutinesAdmitMutation();
  if (!mayWrite && !withOwnersRights) return null;
  const set = (on: boolean) => {
    const others = (all.data?.routines ?? []).filter((each) => each.admitted && each.signature !== signature).map((each) => each.signature);
    void admit({ id: source.id, admittedDto: { signatures: on ? [...others, signature] : others } });
  };
  return (
    <div className="flex flex-wrap items-center gap-2 border bg-panel px-3 py-1.5">
      <p className={admitted ? '' : 'text-amber'}>
        {kind === 'procedure'
          ? 'It is a procedure, which may do more than read.'
          : mayWrite
            ? 'It is declared volatile: that it may do more than read, or that nobody said otherwise.'
            : 'It runs with its owner’s rights.'}{' '}
        {admitted ? 'A steward let it run; what it writes is taken back.' : 'It does not run here until a steward lets it.'}
      </p>
      {steward && (
        <Button small disabled={admitting.isLoading || !all.data} onClick={() => set(!admitted)}>
          {admitted ? 'No longer let it run' : 'Let it run'}
        </Button>
      )}
      <FailureNotice failure={failureOf(admitting.error)} />
    </div>
  );
}
