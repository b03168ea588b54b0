import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { MoreVertical, Plus } from 'lucide-react';
import { useRef, useState } from 'react';
import type { CheckedStep, Step, StepFate } from '@cendra/core';
import { addStepAfter, calculateStep, criteriaStep, removeStepEdit } from '@cendra/core';
import type { StepCountDto } from '../api';
import { api } from '../api';
import { laneColour } from '../sources/source-mark';
import { Button } from '../ui/button';
import { changeAgainst, grouped } from '../ui/format';
import { FollowSentence } from './follow/follow-sentence';
import type { Following } from './follow/use-follow';
import { fateWords } from './follow/use-follow';
import { mint } from './mint';
import type { Bench } from './use-bench';

const STEPS = [
  { word: 'Criteria', says: 'keep the rows where something holds', make: criteriaStep },
  { word: 'Calculate', says: 'add fields made from others', make: calculateStep },
];

interface TrailPanelProps {
  readonly bench: Bench;
  readonly counts: Readonly<Record<string, StepCountDto>>;
  readonly countsCurrent: boolean;
  readonly following: Following;
}

/** The trail as a ledger: one line a step with its exact row count and change; the lane tells the source. */
export function TrailPanel({ bench, counts, countsCurrent, following }: TrailPanelProps) {
  const { trail, selected, select, edit, bench: open, withoutValues } = bench;
  const sources = api.useSourcesListQuery().data ?? [];
  const list = useRef<HTMLOListElement>(null);
  const [renaming, setRenaming] = useState<string>();
  const source = sources.find((each) => trail.definition.steps.some((step) => step.kind === 'table' && step.source === each.id));
  const lane = Math.max(
    0,
    sources.findIndex((each) => each.id === source?.id),
  );
  const adding = useRef<HTMLButtonElement>(null);
  const add = (make: (mint: () => string, input: string) => Step) => {
    if (!selected) return;
    const step = make(mint, selected.step.id);
    edit(addStepAfter(open.definition, selected.step.id, step));
    select(step.id);
  };
  const move = (by: number) => {
    const at = trail.steps.findIndex((each) => each.step.id === selected?.step.id);
    const next = trail.steps[Math.min(trail.steps.length - 1, Math.max(0, at + by))];
    if (!next) return;
    select(next.step.id);
    list.current?.querySelectorAll<HTMLElement>('[data-step]')[trail.steps.indexOf(next)]?.focus();
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (!(event.target instanceof HTMLElement) || event.target.dataset.step === undefined || event.ctrlKey || event.metaKey) return;
    const act = {
      ArrowDown: () => move(1),
      j: () => move(1),
      ArrowUp: () => move(-1),
      k: () => move(-1),
      '/': () => adding.current?.click(),
    }[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  return (
    <section aria-label="Trail" className="flex h-full flex-col bg-panel">
      <div className="flex items-center justify-between border-b px-2 py-1">
        <h2 className="font-medium">Trail</h2>
        {!withoutValues && (
          <Menu>
            <MenuButton
              as={Button}
              ref={adding}
              kind="quiet"
              small
              icon={Plus}
              disabled={!selected}
              title="Add a step after the selected one ( / )"
            >
              Add a step
            </MenuButton>
            <MenuItems anchor="bottom end" className="z-40 min-w-64 rounded border bg-paper py-1 shadow-md">
              {STEPS.map(({ word, says, make }) => (
                <MenuItem key={word}>
                  <button type="button" className="block w-full px-3 py-1.5 text-left data-focus:bg-panel" onClick={() => add(make)}>
                    {word} <span className="block text-meta text-ink-soft">{says}</span>
                  </button>
                </MenuItem>
              ))}
            </MenuItems>
          </Menu>
        )}
      </div>
      <ol ref={list} onKeyDown={onKeyDown} className="min-h-0 flex-1 overflow-auto">
        {trail.steps.map((checked, index) => (
          <TrailLine
            key={checked.step.id}
            bench={bench}
            checked={checked}
            mark={index === 0 ? (source?.mark ?? '?') : undefined}
            lane={lane}
            last={index === trail.steps.length - 1}
            count={counts[checked.step.id]}
            before={counts[checked.step.inputs[0] ?? '']?.rows}
            countsCurrent={countsCurrent}
            fate={following.fate?.steps.find((each) => each.step === checked.step.id)}
            renaming={renaming === checked.step.id}
            onRename={setRenaming}
          />
        ))}
      </ol>
      <FollowSentence bench={bench} following={following} />
      <Grain bench={bench} />
    </section>
  );
}

interface TrailLineProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly mark: string | undefined;
  readonly lane: number;
  readonly last: boolean;
  readonly count: StepCountDto | undefined;
  readonly before: string | undefined;
  readonly countsCurrent: boolean;
  /** What became of the followed row at this step. */
  readonly fate: StepFate | undefined;
  readonly renaming: boolean;
  readonly onRename: (step: string | undefined) => void;
}

function TrailLine({ bench, checked, mark, lane, last, count, before, countsCurrent, fate, renaming, onRename }: TrailLineProps) {
  const { select, selected, withoutValues } = bench;
  const { step, title, problems, blocked } = checked;
  const wrong = problems.some((each) => each.severity === 'error');
  const change = count && changeAgainst(count.rows, before);
  const on = selected?.step.id === step.id;
  return (
    <li className={`flex items-stretch border-b border-l-2 ${on ? 'border-l-ember bg-paper' : 'border-l-transparent'}`}>
      <Lane mark={mark} lane={lane} last={last} off={step.off} />
      <div className="min-w-0 flex-1 py-1.5">
        {renaming ? (
          <RenameField bench={bench} checked={checked} onDone={() => onRename(undefined)} />
        ) : (
          <button
            type="button"
            data-step={step.id}
            aria-current={on ? 'step' : undefined}
            onClick={() => select(step.id)}
            onDoubleClick={() => onRename(step.id)}
            className="block w-full text-left"
          >
            <span
              className={`block truncate ${step.off ? 'text-ink-faint line-through' : ''} ${wrong ? 'underline decoration-rust decoration-wavy underline-offset-4' : ''}`}
            >
              {wrong && <span className="text-rust">! </span>}
              {title}
            </span>
            <span className="text-meta text-ink-soft">
              {step.kind}
              {step.off && ', disabled'}
              {!wrong && blocked && ', waits for the step before'}
            </span>
            {fate && (
              <span
                className={`block text-meta ${fate.present > 0 ? 'text-moss' : fate.dropped.length > 0 ? 'text-rust' : 'text-ink-faint'}`}
              >
                {fateWords(fate)}
              </span>
            )}
          </button>
        )}
      </div>
      <div className={`figures shrink-0 py-1.5 pr-1 text-right ${countsCurrent ? '' : 'text-ink-soft italic'}`}>
        <span className="block">{count ? grouped(count.rows) : ''}</span>
        <span className="block text-meta text-ink-soft">
          {change}
          {count && count.failed !== '0' && <span className="text-amber"> {grouped(count.failed)} failed</span>}
        </span>
      </div>
      {withoutValues ? <span className="w-2" /> : <StepMenu bench={bench} checked={checked} onRename={() => onRename(step.id)} />}
    </li>
  );
}

/** The lane on the left edge: where the rows come from, with the source's two letters at its start. */
function Lane({
  mark,
  lane,
  last,
  off,
}: {
  readonly mark: string | undefined;
  readonly lane: number;
  readonly last: boolean;
  readonly off: boolean;
}) {
  return (
    <div className={`relative w-9 shrink-0 ${laneColour(lane)}`}>
      <svg className="absolute inset-0 h-full w-full" aria-hidden preserveAspectRatio="none">
        <line
          x1="16"
          x2="16"
          y1={mark === undefined ? '0' : '30'}
          y2={last ? '16' : '100%'}
          stroke="currentColor"
          strokeWidth="2"
          strokeDasharray={off ? '3 3' : undefined}
        />
      </svg>
      {mark === undefined ? (
        <span className="absolute top-3 left-3 size-2 bg-current" aria-hidden />
      ) : (
        <span className="absolute top-2 left-1 inline-flex h-5 w-6 items-center justify-center border border-current bg-panel font-mono text-meta font-medium">
          <span className="sr-only">from source </span>
          {mark}
        </span>
      )}
    </div>
  );
}

function StepMenu({ bench, checked, onRename }: { readonly bench: Bench; readonly checked: CheckedStep; readonly onRename: () => void }) {
  const { edit, bench: open } = bench;
  const { step } = checked;
  const removal = removeStepEdit(open.definition, step.id);
  const item = 'block w-full px-3 py-1.5 text-left data-focus:bg-panel data-disabled:opacity-50';
  return (
    <Menu>
      <MenuButton
        aria-label={`What to do with ${checked.title}`}
        className="flex w-6 items-start justify-center pt-2 text-ink-faint hover:text-ink"
      >
        <MoreVertical size={16} strokeWidth={1.75} aria-hidden />
      </MenuButton>
      <MenuItems anchor="bottom end" className="z-40 min-w-40 rounded border bg-paper py-1 shadow-md">
        <MenuItem>
          <button type="button" className={item} onClick={onRename}>
            Rename
          </button>
        </MenuItem>
        <MenuItem disabled={step.inputs.length === 0}>
          <button
            type="button"
            className={item}
            onClick={() => edit({ kind: 'set step', step: step.id, property: 'off', from: step.off, to: !step.off })}
          >
            {step.off ? 'Enable' : 'Disable'}
          </button>
        </MenuItem>
        <MenuItem disabled={!removal || step.inputs.length === 0}>
          <button type="button" className={item} onClick={() => removal && edit(removal)}>
            Remove
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}

function RenameField({ bench, checked, onDone }: { readonly bench: Bench; readonly checked: CheckedStep; readonly onDone: () => void }) {
  const { step } = checked;
  const [typed, setTyped] = useState(step.name);
  const keep = () => {
    onDone();
    if (typed.trim() !== step.name) bench.edit({ kind: 'set step', step: step.id, property: 'name', from: step.name, to: typed.trim() });
  };
  return (
    <input
      autoFocus
      aria-label="Name of the step"
      placeholder={checked.title}
      value={typed}
      maxLength={200}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') keep();
        if (event.key === 'Escape') onDone();
      }}
      className="h-7 w-full rounded border bg-paper px-1"
    />
  );
}

/** The last line: what one row stands for, and which step is handed over. */
function Grain({ bench }: { readonly bench: Bench }) {
  const { trail } = bench;
  const [first] = trail.steps;
  const last = trail.steps[trail.steps.length - 1];
  if (!first || !last || first.step.kind !== 'table') return null;
  const keys = first.step.fields.filter((each) => each.role === 'key').map((each) => each.column);
  return (
    <p className="line-clamp-4 shrink-0 border-t px-2 py-1.5 text-meta text-ink-soft">
      One row is a row of {first.step.table}
      {keys[0] !== undefined && `, known by ${keys[0]}`}. Handed over: {last.title}.
    </p>
  );
}
