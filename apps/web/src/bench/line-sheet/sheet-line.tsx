import type { Edit, LineFigure, Problem, SheetLine } from '@cendra/core';
import {
  addItem,
  LINE_AGGREGATES,
  lineNames,
  linkReferences,
  nextLine,
  removeItem,
  reworded,
  setItem,
  SHEET_LINE_KINDS,
  writtenName,
} from '@cendra/core';
import { ProblemLine } from '../../ui/notice';
import type { Act } from '../act-menu';
import { ActMenu } from '../act-menu';
import { ExpressionSlot } from '../expression-slot';
import { mint } from '../mint';
import { ChoiceSlot, TextSlot } from '../slots';
import type { SheetProps } from './line-sheet-editor';

interface LineProps extends SheetProps {
  readonly line: SheetLine;
  /** Its place on the sheet, from 0. */
  readonly at: number;
  readonly problems: readonly Problem[];
  readonly fresh: boolean;
  readonly onFresh: (line: string) => void;
}

const NOTHING = { text: '', refs: [] };
const CALCULATED = 'calculated';
const SUM = 'sum of lines';
/** How far in a line stands, in rem a level. */
const INDENT = 1.25;

/** A line: its place, its wording and how it is read, then what its figure is. */
export function SheetLineItem({ bench, sheet, line, at, problems, fresh, onFresh }: LineProps) {
  const { edit, withoutValues } = bench;
  const { step } = sheet;
  const change = (to: Partial<SheetLine>) => edit(setItem(step, 'lines', line, { ...line, ...to }));
  const called = line.wording || `line ${at + 1}`;
  const rename = (to: Partial<Pick<SheetLine, 'wording' | 'place'>>) =>
    edit(
      ...reworded(step, line.id, to).flatMap((next, index): readonly Edit[] => {
        const before = step.lines[index];
        return before && JSON.stringify(before) !== JSON.stringify(next) ? [setItem(step, 'lines', before, next)] : [];
      }),
    );
  const figured = line.kind === 'line' || line.kind === 'total';
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5" onKeyDown={(event) => moves(event, (by) => moved(by))}>
        <TextSlot
          label={`Place of ${called}`}
          value={line.place}
          placeholder="place"
          look="figures text-right"
          wrong={problems.some(({ code }) => code === 'place-twice')}
          disabled={withoutValues}
          onKeep={(place) => rename({ place: place.trim() })}
        />
        <span style={{ marginLeft: `${line.level * INDENT}rem` }} className={line.kind === 'line' ? '' : 'font-medium'}>
          {line.kind === 'blank' ? (
            <span className="text-ink-faint">blank</span>
          ) : (
            <TextSlot
              label={`Wording of line ${at + 1}`}
              value={line.wording}
              placeholder="what it says"
              autoFocus={fresh && line.wording === ''}
              wrong={problems.some(({ code }) => code === 'wording-missing')}
              disabled={withoutValues}
              onKeep={(wording) => rename({ wording: wording.trim() })}
            />
          )}
        </span>
        {figured && <FigureSlots {...{ bench, sheet, line, at, called }} onFigure={(figure) => change({ figure })} />}
        {line.kind === 'total' && <span className="text-ink-soft">, a total</span>}
        {figured && (
          <span className="text-ink-soft">
            shown as{' '}
            <TextSlot
              label={`Pattern of ${called}`}
              value={line.format}
              placeholder="its digits"
              look="font-mono"
              wrong={problems.some(({ code }) => code === 'format-unsuited')}
              disabled={withoutValues}
              onKeep={(format) => change({ format: format.trim() })}
            />
          </span>
        )}
        {!withoutValues && (
          <span className="ml-auto">
            <ActMenu bench={bench} of={called} acts={acts} />
          </span>
        )}
      </div>
      {problems.map((problem, index) => (
        <div key={index} role="alert" className="pl-8">
          <ProblemLine problem={problem} />
        </div>
      ))}
    </>
  );

  function moved(by: number): void {
    const to = at + by;
    if (to < 0 || to >= step.lines.length || withoutValues) return;
    edit({ kind: 'set step', step: step.id, property: 'lines', from: step.lines, to: step.lines.toSpliced(at, 1).toSpliced(to, 0, line) });
  }

  function acts(): readonly Act[] {
    const copied = () => {
      const copy = nextLine(mint, step, { ...line, id: mint(), wording: '' });
      onFresh(copy.id);
      edit(addItem(step, 'lines', copy, at + 1));
    };
    const kinds = SHEET_LINE_KINDS.filter((each) => each !== line.kind).map((kind): Act => ({
      word: `Make it a ${kind}`,
      does: () => change({ kind }),
    }));
    return [
      { word: 'Copy below', does: copied },
      { word: 'Move up', does: at > 0 ? () => moved(-1) : undefined },
      { word: 'Move down', does: at < step.lines.length - 1 ? () => moved(1) : undefined },
      { word: 'Further in', does: line.level < 9 ? () => change({ level: line.level + 1 }) : undefined },
      { word: 'Further out', does: line.level > 0 ? () => change({ level: line.level - 1 }) : undefined },
      ...kinds,
      { word: 'Remove', edits: [removeItem(step, 'lines', line)] },
    ];
  }
}

/** Alt with an arrow moves the line the keys act in. */
function moves(event: React.KeyboardEvent, by: (steps: number) => void): void {
  if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
  event.preventDefault();
  by(event.key === 'ArrowUp' ? -1 : 1);
}

interface FigureProps extends Pick<LineProps, 'bench' | 'sheet' | 'line' | 'at'> {
  readonly called: string;
  readonly onFigure: (figure: LineFigure) => void;
}

/** “sum of kilos of harvests where floral source is heather”, “Heather + Lime”, “sum of the lines from … to …”. */
function FigureSlots({ bench, sheet, line, at, called, onFigure }: FigureProps) {
  const { figure } = line;
  const choice = figure.from === 'rows' ? figure.aggregate : figure.from === 'lines' ? CALCULATED : figure.from === 'range' ? SUM : '';
  const choose = (to: (typeof LINE_AGGREGATES)[number] | typeof CALCULATED | typeof SUM) => {
    if (to === choice) return;
    if (to === CALCULATED) return onFigure({ from: 'lines', expression: NOTHING });
    const { lines } = sheet.step;
    if (to === SUM)
      return onFigure({
        from: 'range',
        since: lines[at > 0 ? 0 : 1]?.id ?? '',
        until: lines[at > 0 ? at - 1 : lines.length - 1]?.id ?? '',
      });
    const before = figure.from === 'rows' ? figure : { from: 'rows' as const, slot: 0, expression: NOTHING, among: NOTHING };
    onFigure({ ...before, aggregate: to, ...(to === 'rows' ? { expression: NOTHING } : {}) });
  };
  return (
    <>
      <ChoiceSlot
        label={`Figure of ${called}`}
        value={choice}
        choices={[...LINE_AGGREGATES, CALCULATED, SUM]}
        disabled={bench.withoutValues}
        onChange={choose}
      />
      {figure.from === 'rows' && <OfRows {...{ bench, sheet, line, at, called, onFigure }} figure={figure} />}
      {figure.from === 'lines' && <OfLines {...{ bench, sheet, line, at, called, onFigure }} figure={figure} />}
      {figure.from === 'range' && <OfRange {...{ bench, sheet, line, at, called, onFigure }} figure={figure} />}
    </>
  );
}

function OfRows({ bench, sheet, called, figure, onFigure }: FigureProps & { readonly figure: LineFigure & { from: 'rows' } }) {
  const { arriving } = sheet;
  const schema = arriving[figure.slot]?.schema ?? { fields: [] };
  const { parameters } = bench.trail.definition;
  const words = arriving
    .map((each, slot) => each.grain.rows || `input ${slot + 1}`)
    .map((each, slot, all) => (all.indexOf(each) === slot ? each : `${each} (${slot + 1})`));
  return (
    <>
      {figure.aggregate !== 'rows' && (
        <>
          of
          <ExpressionSlot
            bench={bench}
            label={`Of what ${called} is told`}
            value={figure.expression}
            schema={schema}
            onKeep={(expression) => onFigure({ ...figure, expression })}
          />
        </>
      )}
      {arriving.length > 1 && (
        <>
          of
          <ChoiceSlot
            label={`Of which rows ${called} is told`}
            value={words[figure.slot] ?? ''}
            choices={words}
            disabled={bench.withoutValues}
            onChange={(word) => onFigure({ ...figure, slot: words.indexOf(word), expression: NOTHING, among: NOTHING })}
          />
        </>
      )}
      where
      <TextSlot
        label={`Among which rows ${called} is told`}
        value={figure.among.text}
        placeholder="any, or a condition"
        look="font-mono"
        disabled={bench.withoutValues}
        onKeep={(text) => onFigure({ ...figure, among: linkReferences(text, { schema, parameters }) })}
      />
    </>
  );
}

function OfLines({ bench, sheet, line, called, figure, onFigure }: FigureProps & { readonly figure: LineFigure & { from: 'lines' } }) {
  const names = lineNames(sheet.step.lines);
  const others = sheet.step.lines
    .filter((each) => each !== line && each.figure.from !== 'nothing')
    .flatMap(({ id }) => names.get(id) ?? []);
  const schema = { fields: [...names].map(([id, name]) => ({ id, name })) } as never;
  const write = (text: string) =>
    onFigure({ from: 'lines', expression: linkReferences(text, { schema, parameters: bench.trail.definition.parameters }) });
  return (
    <>
      as
      <TextSlot
        label={`What ${called} is calculated as`}
        value={figure.expression.text}
        placeholder="other lines by their wording, :parameters, numbers"
        look="font-mono"
        disabled={bench.withoutValues}
        onKeep={write}
      />
      {!bench.withoutValues && others.length > 0 && (
        <ChoiceSlot
          label={`A line for ${called}`}
          value=""
          empty="+ a line"
          choices={others}
          onChange={(name) => write(`${figure.expression.text} ${writtenName('field', name)}`.trim())}
        />
      )}
    </>
  );
}

function OfRange({ bench, sheet, line, called, figure, onFigure }: FigureProps & { readonly figure: LineFigure & { from: 'range' } }) {
  const names = lineNames(sheet.step.lines);
  const others = sheet.step.lines.filter((each) => each !== line && each.kind !== 'blank');
  const end = (which: 'since' | 'until', label: string) => (
    <ChoiceSlot
      label={label}
      value={names.get(figure[which]) ?? ''}
      choices={others.flatMap(({ id }) => names.get(id) ?? [])}
      wrong={!names.has(figure[which])}
      disabled={bench.withoutValues}
      onChange={(name) => onFigure({ ...figure, [which]: others.find(({ id }) => names.get(id) === name)?.id ?? '' })}
    />
  );
  return (
    <>
      from {end('since', `First line of ${called}`)} to {end('until', `Last line of ${called}`)}
    </>
  );
}
