import { Input } from '@headlessui/react';
import { useMemo, useState } from 'react';
import type { Edit, KnownTable, TableField, TableStep } from '@cendra/core';
import { checkedOf, keysOf, typeWord, usersOf } from '@cendra/core';
import type { KnownTableDto } from '../api';
import { Button } from '../ui/button';
import { RoleGlyph } from '../ui/glyphs';
import { Tick } from '../ui/tick';
import { WORDS } from '../ui/words';
import { RowWordsSlot } from './join/row-words-slot';
import { PasteNames } from './paste-names';
import { OtherColumns, Repoint } from './repoint';
import type { StepEditorProps } from './step-kind';
import { ZoneSentence } from './zone-sentence';

type Repointing = 'another table' | 'other columns';

/** Which columns of the table are handed on. None is ticked to begin with; criteria may use the others. */
export function TableEditor({ bench, checked }: StepEditorProps) {
  const table = checkedOf('table', checked);
  return table && <TableFields bench={bench} step={table.step} />;
}

function TableFields({ bench, step }: Pick<StepEditorProps, 'bench'> & { readonly step: TableStep }) {
  const { edit, withoutValues, known, trail } = bench;
  const [sought, setSought] = useState('');
  const [pasting, setPasting] = useState(false);
  const [repointing, setRepointing] = useState<Repointing>();
  const take = (to: readonly string[]) => edit({ kind: 'set step', step: step.id, property: 'taken', from: step.taken, to });
  const shown = step.fields.filter((each) => each.column.toLowerCase().includes(sought.toLowerCase()));
  const used = useMemo(
    () => new Set(step.fields.filter(({ id }) => usersOf(trail.definition, new Set([id])).length > 0).map(({ id }) => id)),
    [step.fields, trail.definition],
  );
  const change = (field: TableField, taken: boolean) =>
    take(taken ? [...step.taken, field.id] : step.taken.filter((each) => each !== field.id));
  const now = known.find((each) => each.source === step.source && each.schema === step.schema && each.table === step.table);
  const columnNow = (field: TableField) =>
    now?.state === 'known' ? (now.columns.find((each) => each.name === field.column)?.sourceType ?? 'gone') : field.sourceType;
  const changed = step.fields.some((field) => columnNow(field) !== field.sourceType && columnNow(field) !== 'gone');
  const missed = step.fields.some((field) => columnNow(field) === 'gone' && (step.taken.includes(field.id) || used.has(field.id)));
  return (
    <div className="px-3 py-2">
      <div className="flex flex-wrap items-center gap-2">
        <p>
          Rows of{' '}
          <span className="slot font-mono">
            {step.schema}.{step.table}
          </span>
          , taking <span className="figures">{step.taken.length}</span> of <span className="figures">{step.fields.length}</span> fields. One
          is called
        </p>
        <RowWordsSlot
          bench={bench}
          label="What rows of the table are called"
          words={step.called ?? { row: `row of ${step.table}`, rows: `rows of ${step.table}` }}
          table={step}
        />
        {!withoutValues && (
          <div className="ml-auto flex items-center gap-2">
            <Input
              aria-label="Part of a field’s name"
              placeholder="Part of a name"
              value={sought}
              onChange={(event) => setSought(event.target.value)}
              className="h-6 w-32 rounded border bg-paper px-2"
            />
            <Button small onClick={() => take([...new Set([...step.taken, ...shown.map((each) => each.id)])])}>
              {sought === '' ? 'Take all' : 'Take these'}
            </Button>
            <Button small onClick={() => take([])} disabled={step.taken.length === 0}>
              Take none
            </Button>
            <Button small onClick={() => setPasting(!pasting)} aria-expanded={pasting}>
              Paste names
            </Button>
            <Button small kind="quiet" onClick={() => setRepointing('another table')}>
              Read another table …
            </Button>
          </div>
        )}
      </div>
      {step.fields.some((each) => each.type.kind === 'instant') && (
        <p className="mt-1 text-meta text-ink-soft">
          <ZoneSentence bench={bench} />
        </p>
      )}
      {(changed || missed) && !withoutValues && (
        <p className="mt-1 flex gap-2">
          {changed && (
            <Button small onClick={() => now && edit(...takeTypesOver(step, now))}>
              Take the new types over
            </Button>
          )}
          {missed && (
            <Button small onClick={() => setRepointing('other columns')}>
              Read other columns instead …
            </Button>
          )}
        </p>
      )}
      {repointing === 'another table' && <Repoint bench={bench} step={step} onDone={() => setRepointing(undefined)} />}
      {repointing === 'other columns' && <OtherColumns bench={bench} step={step} onDone={() => setRepointing(undefined)} />}
      {pasting && (
        <PasteNames
          none={`No column of ${step.table} is called`}
          match={(name) => step.fields.find((each) => each.column.toLowerCase() === name)?.id}
          onTake={(ids) => take([...new Set([...step.taken, ...ids])])}
          onClose={() => setPasting(false)}
        />
      )}
      <ul className="mt-2 border-t" aria-label="Fields" onKeyDown={moveAmongTicks}>
        {shown.map((field) => {
          const taken = step.taken.includes(field.id);
          const current = columnNow(field);
          return (
            <li
              key={field.id}
              className={`flex h-7 items-center gap-3 border-b ${withoutValues ? '' : 'cursor-pointer hover:bg-panel'}`}
              // The whole line ticks; the tick itself is what keys and readers of the screen use.
              onClick={(event) => {
                if (!withoutValues && event.target instanceof Element && !event.target.closest('button, [role=checkbox]'))
                  change(field, !taken);
              }}
            >
              <Tick checked={taken} label={`Take ${field.column}`} disabled={withoutValues} onChange={(on) => change(field, on)} />
              <span className="flex w-56 items-center gap-2 truncate">
                <RoleGlyph role={field.role} />
                {field.column}
              </span>
              <span className="w-32 text-ink-soft">{typeWord(field.type)}</span>
              <span className="w-24 text-ink-soft">{field.role}</span>
              <span title={WORDS['for use only']} className="text-meta text-ink-soft">
                {!taken && used.has(field.id) && 'for use only'}
              </span>
              {current !== field.sourceType && (
                <span className={taken ? 'text-rust' : 'text-amber'}>
                  {current === 'gone' ? 'gone from the table' : `is now ${current}`}
                </span>
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** Arrow keys go from tick to tick; Space ticks. */
function moveAmongTicks(event: React.KeyboardEvent<HTMLElement>): void {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (by === undefined) return;
  const ticks = [...event.currentTarget.querySelectorAll<HTMLElement>('[role=checkbox]')];
  const next = ticks[ticks.indexOf(document.activeElement as HTMLElement) + by];
  if (!next) return;
  event.preventDefault();
  next.focus();
}

/** The columns and keys of the step's fields as the source has them now. */
function takeTypesOver(step: TableStep, now: KnownTableDto): readonly Edit[] {
  const to = step.fields.map((field) => {
    const column = now.columns.find((each) => each.name === field.column);
    return column ? { ...field, sourceType: column.sourceType, type: column.type as TableField['type'] } : field;
  });
  const keys = keysOf(to, now as unknown as KnownTable);
  return [
    { kind: 'set step', step: step.id, property: 'fields', from: step.fields, to },
    { kind: 'set step', step: step.id, property: 'keys', from: step.keys, to: keys },
  ];
}
