import { DialogTitle } from '@headlessui/react';
import { useMemo, useState } from 'react';
import type { CheckedStep, ReadTable, TableStep } from '@cendra/core';
import { checkedStep, columnsByName, repointEdits, typeWord, usersOf } from '@cendra/core';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { PartnerDialog } from './join/bring-in';
import { mint } from './mint';
import { ChoiceSlot } from './slots';
import type { Bench } from './use-bench';
import { Overlay } from '../ui/overlay';

interface RepointProps {
  readonly bench: Bench;
  readonly step: TableStep;
  onDone(): void;
}

/** Lets a table step read another table: first which, then which of its columns stands for which. */
export function Repoint({ bench, step, onDone }: RepointProps) {
  const [chosen, setChosen] = useState<{ readonly source: string; readonly described: ReadTable }>();
  const after = checkedStep(bench.trail, step.id) as CheckedStep;
  if (!chosen)
    return (
      <PartnerDialog
        bench={bench}
        after={after}
        title={`Instead of ${step.schema}.${step.table}, read …`}
        onlyTables
        onChoose={(partner, described) => described && 'table' in partner && setChosen({ source: partner.table.source, described })}
        onDone={onDone}
      />
    );
  return <Mapping bench={bench} step={step} {...chosen} onDone={onDone} />;
}

/** Lets a table step read other columns of its own table, in place of those that are gone there. */
export function OtherColumns({ bench, step, onDone }: RepointProps) {
  const { source, schema, table } = step;
  const { data, error } = api.useSourcesDescribeQuery({ id: source, schema, table }, { refetchOnMountOrArgChange: true });
  if (error) return <FailureNotice failure={failureOf(error)} />;
  return data && <Mapping bench={bench} step={step} source={source} described={data as unknown as ReadTable} onDone={onDone} />;
}

const NONE = 'no column';

function Mapping({ bench, step, source, described, onDone }: RepointProps & { readonly source: string; readonly described: ReadTable }) {
  const { definition } = bench.trail;
  const suggested = useMemo(() => columnsByName(step, described), [step, described]);
  const [changed, setChanged] = useState<ReadonlyMap<string, string | null>>(new Map());
  const map = new Map([...suggested, ...changed]);
  const names = [NONE, ...described.columns.map((each) => each.name)];
  const lost = step.fields.filter(({ id }) => (map.get(id) ?? null) === null);
  const dependants = usersOf(definition, new Set(lost.map((each) => each.id)));
  const titles = dependants.flatMap((id) => checkedStep(bench.trail, id)?.title ?? []);
  return (
    <Overlay place="top" look="flex w-[44rem] max-w-full flex-col" onClose={onDone}>
      <DialogTitle className="border-b px-3 py-2 font-medium">
        Which column of {described.schema}.{described.name} stands for which
      </DialogTitle>
      <ul aria-label="Columns, old to new" className="min-h-0 flex-1 overflow-auto">
        {step.fields.map((field) => {
          const now = map.get(field.id) ?? null;
          const column = described.columns.find((each) => each.name === now);
          return (
            <li key={field.id} className="flex items-center gap-3 border-b px-3 py-1">
              <span className="w-48 truncate">{field.column}</span>
              <span className="w-28 text-meta text-ink-soft">{typeWord(field.type)}</span>
              <ChoiceSlot
                label={`Column for ${field.column}`}
                value={now ?? NONE}
                choices={names}
                wrong={now === null && step.taken.includes(field.id)}
                onChange={(to) => setChanged(new Map([...changed, [field.id, to === NONE ? null : to]]))}
              />
              <span className={`text-meta ${column && column.sourceType !== field.sourceType ? 'text-amber' : 'text-ink-soft'}`}>
                {column ? typeWord(column.type) : ''}
              </span>
            </li>
          );
        })}
      </ul>
      <div className="space-y-2 border-t px-3 py-2">
        {lost.length > 0 && (
          <p role="status" className="text-amber">
            {lost.map((each) => each.column).join(', ')} {lost.length === 1 ? 'has' : 'have'} no column there
            {titles.length > 0 ? `; used in ${titles.join(', ')}` : ', and nothing uses ' + (lost.length === 1 ? 'it' : 'them')}.
          </p>
        )}
        <div className="flex gap-2">
          <Button
            kind="primary"
            onClick={() => {
              bench.edit(...repointEdits(definition, mint, step, source, described, map));
              onDone();
            }}
          >
            Read {described.name}
          </Button>
          <Button onClick={onDone}>Leave it</Button>
        </div>
      </div>
    </Overlay>
  );
}
