import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { Plus } from 'lucide-react';
import { Suspense, useEffect, useMemo, useRef, useState } from 'react';
import type { CheckedStep, Definition, Edit, FollowedStep, LaneLine } from '@cendra/core';
import { checkedStep, fieldById, knownBy, lanesOf, moveAlongEdits, ofKind, resultStep } from '@cendra/core';
import type { StepCountDto } from '../api';
import { api } from '../api';
import { Button } from '../ui/button';
import { changeAgainst, grouped } from '../ui/format';
import { WORDS } from '../ui/words';
import { FollowSentence } from './follow/follow-sentence';
import type { Following } from './follow/use-follow';
import { followWords } from './follow/use-follow';
import type { LaneSource } from './lane-strip';
import { DraggedTrail, useDraggedLine } from './dragged-trail';
import { LaneStrip } from './lane-strip';
import { mint } from './mint';
import type { Adding, Choosing } from './step-kind';
import { BENCH_KINDS } from './step-kinds';
import { StepMenu } from './step-menu';
import { FiguresOfStep, WatchedFigures } from './watched-figures';
import type { Bench } from './use-bench';

const ADDINGS = Object.values(BENCH_KINDS).flatMap(({ adding }) => adding ?? []);

interface TrailPanelProps {
  readonly bench: Bench;
  readonly counts: Readonly<Record<string, StepCountDto>>;
  /** Whether a step's count is of what is shown. */
  readonly countsCurrent: (step: string) => boolean;
  readonly expected: (step: string) => string | undefined;
  readonly following: Following;
}

/** The trail as a ledger: one line a step with its exact row count and change; lanes tell where rows come from. */
export function TrailPanel({ bench, counts, countsCurrent, expected, following }: TrailPanelProps) {
  const { trail, selected, select, edit, bench: open, withoutValues } = bench;
  const sources = api.useSourcesListQuery().data ?? [];
  const list = useRef<HTMLOListElement>(null);
  const [renaming, setRenaming] = useState<string>();
  const lines = useMemo(() => lanesOf(trail), [trail]);
  const lanes = Math.max(1, ...lines.map(widthOf));
  const adding = useRef<HTMLButtonElement>(null);
  const [choosing, setChoosing] = useState<Choosing>();
  // A menu keeps what was typed into it when it is left at once, and would go on from there: each use gets a new one.
  const [uses, setUses] = useState(0);
  useEffect(() => {
    if (uses > 0 && document.activeElement === document.body) adding.current?.focus();
  }, [uses]);
  const add = (chosen: Adding) => {
    if (!selected) return;
    setUses(uses + 1);
    if ('Choose' in chosen) {
      setChoosing(chosen);
      return;
    }
    const { edits, step } = chosen.begin(mint, open.definition, selected);
    edit(...edits);
    select(step);
  };
  const move = (by: number) => {
    const at = lines.findIndex((each) => each.step === selected?.step.id);
    const to = Math.min(lines.length - 1, Math.max(0, at + by));
    const next = lines[to];
    if (!next) return;
    select(next.step);
    list.current?.querySelectorAll<HTMLElement>('[data-step]')[to]?.focus();
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (!(event.target instanceof HTMLElement) || event.target.dataset.step === undefined || event.ctrlKey || event.metaKey) return;
    if (event.altKey) {
      const edits = movedBy(open.definition, event.target.dataset.step, event.key);
      if (!edits || withoutValues) return;
      event.preventDefault();
      edit(...edits);
      return;
    }
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
          <Menu key={uses}>
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
              {ADDINGS.map((each) => (
                <MenuItem key={each.word}>
                  <button type="button" className="block w-full px-3 py-1.5 text-left data-focus:bg-panel" onClick={() => add(each)}>
                    {each.word} <span className="block text-meta text-ink-soft">{each.says}</span>
                  </button>
                </MenuItem>
              ))}
            </MenuItems>
          </Menu>
        )}
      </div>
      <DraggedTrail bench={bench} lines={lines}>
        <ol ref={list} onKeyDown={onKeyDown} className="min-h-0 flex-1 overflow-auto">
          {lines.map((line) => {
            const checked = checkedStep(trail, line.step);
            const { inputs = [] } = checked?.step ?? {};
            const [only] = inputs;
            return (
              checked && (
                <TrailLine
                  key={line.step}
                  bench={bench}
                  checked={checked}
                  line={line}
                  lanes={lanes}
                  sources={sources}
                  count={counts[line.step]}
                  before={(inputs.length === 1 || checked.step.kind === 'join') && typeof only === 'string' ? counts[only] : undefined}
                  countsCurrent={countsCurrent(line.step)}
                  expected={countsCurrent(line.step) ? undefined : expected(line.step)}
                  rowsOf={(step) => counts[step]?.rows}
                  followed={following.followed?.steps.find((each) => each.step === line.step)}
                  renaming={renaming === line.step}
                  onRename={setRenaming}
                />
              )
            );
          })}
        </ol>
      </DraggedTrail>
      {choosing && selected && (
        <Suspense fallback={null}>
          <choosing.Choose bench={bench} after={selected} onDone={() => setChoosing(undefined)} />
        </Suspense>
      )}
      <WatchedFigures bench={bench} />
      <FollowSentence bench={bench} following={following} />
      <Grain bench={bench} />
    </section>
  );
}

/** Alt with an arrow moves a step along its lane. */
function movedBy(definition: Definition, step: string, key: string): readonly Edit[] | undefined {
  const places = { ArrowUp: -1, ArrowDown: 1 }[key];
  return places === undefined ? undefined : moveAlongEdits(definition, step, places);
}

interface TrailLineProps {
  readonly bench: Bench;
  readonly checked: CheckedStep;
  readonly line: LaneLine;
  readonly lanes: number;
  readonly sources: readonly LaneSource[];
  readonly count: StepCountDto | undefined;
  /** Of the step whose rows arrive first. */
  readonly before: StepCountDto | undefined;
  readonly countsCurrent: boolean;
  /** How many rows are expected, until they are counted. */
  readonly expected: string | undefined;
  readonly rowsOf: (step: string) => string | undefined;
  /** What became of the followed row at this step. */
  readonly followed: FollowedStep | undefined;
  readonly renaming: boolean;
  readonly onRename: (step: string | undefined) => void;
}

function TrailLine(props: TrailLineProps) {
  const { bench, checked, line, lanes, sources, count, before, countsCurrent, expected, rowsOf, followed, renaming, onRename } = props;
  const { select, selected, withoutValues } = bench;
  const { step, title, problems, blocked } = checked;
  const wrong = problems.some((each) => each.severity === 'error');
  const change = count && changeAgainst(count.rows, before?.rows);
  const on = selected?.step.id === step.id;
  const { listeners, ref, style, isDragging } = useDraggedLine(step.id);
  const note = step.off || wrong ? undefined : BENCH_KINDS[step.kind].note?.(checked, rowsOf);
  return (
    <li
      ref={ref}
      style={style}
      {...listeners}
      className={`flex items-stretch border-b border-l-2 ${on ? 'border-l-ember bg-paper' : 'border-l-transparent'} ${isDragging ? 'relative z-10 border bg-paper' : ''}`}
    >
      <LaneStrip line={line} lanes={lanes} sources={sources} off={step.off} />
      <div className="min-w-0 flex-1 py-1.5">
        <div className="flex items-stretch">
          <div className="min-w-0 flex-1">
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
                {note !== undefined && (
                  <span title={note} className="line-clamp-3 text-meta text-ink-soft">
                    {note}
                  </span>
                )}
                {followed && (
                  <span
                    className={`block text-meta ${followed.present > 0 ? 'text-moss' : followed.dropped.length > 0 ? 'text-rust' : 'text-ink-faint'}`}
                  >
                    {followWords(followed, bench.trail.definition.calendar, step.off ? undefined : ofKind('summarise', step))}
                  </span>
                )}
              </button>
            )}
          </div>
          <div className={`figures shrink-0 pr-1 text-right ${countsCurrent ? '' : 'text-ink-soft italic'}`}>
            <span className="block">{expected !== undefined ? `~\u202f${grouped(expected)}` : count ? grouped(count.rows) : ''}</span>
            <span className="block text-meta text-ink-soft">
              {expected === undefined && change}
              {/* Where the other side's rows are kept as well, more rows are no sign of it. */}
              {change?.startsWith('+') && step.kind === 'join' && !step.keeps.right && (
                <span title={WORDS.multiplied} className="text-amber">
                  {' '}
                  multiplied
                </span>
              )}
              {count && count.failed !== '0' && <span className="text-amber"> {grouped(count.failed)} failed</span>}
            </span>
          </div>
        </div>
        <FiguresOfStep bench={bench} count={count} before={before} current={countsCurrent} />
      </div>
      {withoutValues ? <span className="w-2" /> : <StepMenu bench={bench} checked={checked} onRename={() => onRename(step.id)} />}
    </li>
  );
}

/** How many lanes stand side by side at a line. */
const widthOf = ({ lane, joins, passes }: LaneLine) => 1 + Math.max(lane, ...[...joins, ...passes].map((each) => each.lane));

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
  const result = resultStep(bench.trail);
  if (!result || result.grain.row === '') return null;
  const { grain, schema, title } = result;
  const keys = knownBy(grain, schema).flatMap((id) => fieldById(schema, id)?.name ?? []);
  return (
    <p className="line-clamp-4 shrink-0 border-t px-2 py-1.5 text-meta text-ink-soft">
      <span title={WORDS.grain}>
        {grain.row.startsWith('row of ') ? `One row is a ${grain.row}` : `One row per ${grain.row}`}
        {keys.length > 0 && `, known by ${keys.join(' and ')}`}.
      </span>{' '}
      <span title={WORDS['handed over']}>Handed over: {title}.</span>
    </p>
  );
}
