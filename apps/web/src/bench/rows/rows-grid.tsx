import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { FieldType } from '@cendra/core';
import { typeWord } from '@cendra/core';
import type { ResultColumnDto, ResultDto } from '../../api';
import { api } from '../../api';
import { useAppDispatch } from '../../app/store';
import type { Cell } from '../../ui/cell';
import { grouped } from '../../ui/format';
import type { WholeTextOf } from './whole-cell';
import { WholeCell } from './whole-cell';
import { FindBar } from './find-bar';
import { GridHead } from './grid-head';
import { actOf, actOnView } from './grid-keys';
import type { HeaderAct } from './grid-header';
import type { Across } from './grid-row';
import { GridRow, gutterOf } from './grid-row';
import { ProfilePanel } from './profile-panel';
import { sortText } from './sort';
import { useCopy } from './use-copy';
import type { Page } from './use-pages';
import { PAGE, usePages } from './use-pages';
import { useSelection } from './use-selection';
import type { RowsView } from './view';
import { resized, shownColumns } from './view';

const ROW = 28;
const HEADER = 28;
/** Room for what says that the rows are sorted by a field. */
const ARROW = 20;
/** Rows that scroll out of sight are filled anew instead of being made anew; never more than these are in sight. */
const RECYCLED = 96;
/**
 * Browsers place things by floating numbers of 24 bits, so that farther down a pixel is no longer told from the next;
 * beyond this the scroll position stands for a larger one.
 */
const MOST_PIXELS = 8_000_000;
/** More new fields than these are another set of fields, which is read from its beginning. */
const MOST_NEW = 3;
/** Rows; nearer ones are scrolled to by their index. */
const FAR = 500;

interface RowsGridProps {
  readonly result: ResultDto;
  readonly view: RowsView;
  readonly onView: (view: RowsView) => void;
  /** Something is asked of all rows and only the first ones are here. */
  readonly onNeedAll: () => void;
  /** What is said where there is no row. */
  readonly nothing?: React.ReactNode;
  /** Follows a row, given the columns and its cells; left out where rows are not those of the trail. */
  readonly onFollow?: (columns: readonly { readonly id: string }[], cells: readonly (Cell | undefined)[]) => void;
  /** What asks the source for a text of a row, given its cells; left out where rows are not those of the trail. */
  readonly textOf?: (cells: readonly Cell[], field: string) => WholeTextOf | undefined;
  /** What a row was made of others as; left out where it was not. */
  readonly made?: 'group' | 'line' | undefined;
  /** Shows the rows such a row was made of, given its cells. */
  readonly onMadeOf?: (cells: readonly Cell[]) => void;
}

/**
 * Stored rows as a virtual grid, in both directions. Only pages in sight are fetched. Arrow keys move the cell, with
 * Shift they choose several; Enter shows a cut text whole, F follows the row, G shows the rows of a group, Ctrl+C copies, Ctrl+F finds.
 */
export function RowsGrid({ result, view, onView, onNeedAll, nothing, onFollow, textOf, made, onMadeOf }: RowsGridProps) {
  const total = Number(result.rows);
  const box = useRef<HTMLDivElement>(null);
  const selection = useSelection();
  // A newer result may have fewer rows and fields.
  const at = {
    row: Math.min(selection.at.row, Math.max(0, total - 1)),
    column: Math.min(selection.at.column, Math.max(0, result.columns.length - 1)),
  };
  const [whole, setWhole] = useState<Omit<Parameters<typeof WholeCell>[0], 'result' | 'onClose'>>();
  const [finding, setFinding] = useState(false);
  const [profiled, setProfiled] = useState<string>();
  const columns = useMemo(() => shownColumns(result.columns, view), [result.columns, view]);
  const shown = useMemo(() => columns.map((each) => each.id), [columns]);
  const widths = useMemo(
    () => columns.map((each) => view.widths[each.id] ?? columnWidth(each) + (view.sort.some(({ field }) => field === each.id) ? ARROW : 0)),
    [columns, view.widths, view.sort],
  );
  const frozen = Math.min(view.frozen, columns.length - 1);
  const gutter = gutterOf(total);
  const lefts = useMemo(
    () => widths.map((_width, index) => gutter + widths.slice(0, index).reduce((sum, each) => sum + each, 0)),
    [widths, gutter],
  );
  const frozenWidth = widths.slice(0, frozen).reduce((sum, each) => sum + each, gutter);

  const inSight = Math.min(total, Math.floor(MOST_PIXELS / ROW));
  const down = useVirtualizer({
    count: inSight,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 2,
    useFlushSync: false,
    // Rows begin below the header, which stays in sight: it takes its height at the end, not at the start.
    scrollPaddingEnd: HEADER,
  });
  const across = useVirtualizer({
    count: columns.length - frozen,
    getScrollElement: () => box.current,
    estimateSize: (index) => widths[index + frozen] ?? 120,
    horizontal: true,
    overscan: 2,
    useFlushSync: false,
    paddingStart: frozenWidth,
    scrollPaddingStart: frozenWidth,
    getItemKey: (index) => `${shown[index + frozen]} ${widths[index + frozen]}`,
  });
  const items = down.getVirtualItems();
  const visible = across.getVirtualItems();
  const first = items[0]?.index ?? 0;
  // Beyond the cap the position is scaled: the same place on the bar, a later row; at its end the last one.
  const lowest = Math.max(1, down.getTotalSize() + HEADER - (down.scrollRect?.height ?? 0));
  const along = Math.min(1, Math.max(0, (down.scrollOffset ?? 0) / lowest));
  const skipped = Math.round(along * (total - inSight));
  const [from, until] = [(visible[0]?.index ?? 0) + frozen, (visible.at(-1)?.index ?? -1) + frozen];
  const lead = (visible[0]?.start ?? frozenWidth) - frozenWidth;
  const width = across.getTotalSize();
  const seen = useMemo(
    (): Across => ({ columns, widths, lefts, gutter, frozen, from, until, lead, width }),
    [columns, widths, lefts, gutter, frozen, from, until, lead, width],
  );
  const sort = sortText(view.sort);
  const read = useReadPage(result.id, Number(result.rows), sort);
  const pages = usePages(read, first + skipped, items.length, total);
  const stored = useMemo(() => new Map(result.columns.map((each, index) => [each.id, index + 1])), [result.columns]);
  const places = useMemo(() => shown.map((id) => stored.get(id) ?? 0), [shown, stored]);
  const rowAt = (row: number) => pages.get(Math.floor(row / PAGE))?.[row % PAGE];
  const cellAt = (row: number, column: number): Cell | undefined => {
    const cells = rowAt(row);
    return cells && (cells[stored.get(shown[column] ?? '') ?? 0] ?? null);
  };

  const move = (row: number, column: number, extending = false) => {
    const to = { row: Math.min(total - 1, Math.max(0, row)), column: Math.min(columns.length - 1, Math.max(0, column)) };
    selection.move(to, extending);
    const index = to.row - skipped;
    // Far away, how many rows are skipped is another: the bar is set to where the row is, and for the last one to its end.
    if (total > inSight && Math.abs(index - first) > FAR) down.scrollToOffset((to.row / (total - 1)) * (lowest + ROW));
    else down.scrollToIndex(Math.min(inSight - 1, Math.max(0, index)));
    if (to.column >= frozen) across.scrollToIndex(to.column - frozen);
  };
  const follow = (row: number) =>
    onFollow?.(
      result.columns,
      result.columns.map((each) => rowAt(row)?.[stored.get(each.id) ?? 0]),
    );
  /** The cells of a row as the result has its columns. */
  const cellsOf = (row: number) => result.columns.map((each) => rowAt(row)?.[stored.get(each.id) ?? 0] ?? null);
  const openMadeOf = (row: number) => {
    if (made && rowAt(row)) onMadeOf?.(cellsOf(row));
  };
  const openWhole = (row: number, column: number) => {
    const [cell, target, id] = [cellAt(row, column), columns[column], rowAt(row)?.[0]];
    if (target && typeof id === 'string' && typeof cell === 'object' && cell !== null && 't' in cell)
      setWhole({ row: id, field: target.id, name: target.name, more: textOf?.(cellsOf(row), target.id) });
  };
  /** To the place where a text was found; its page may have to be read first. */
  const goTo = async (row: number, text: string) => {
    const cells = rowAt(row) ?? (await read(Math.floor(row / PAGE)))?.[row % PAGE];
    move(row, (cells && columnHolding(text, cells, places)) ?? at.column);
  };
  const { copy, copied } = useCopy(result.id, read);
  const act = (what: HeaderAct, field: string) => {
    if (what === 'profile') setProfiled(field);
    else onView(actOnView(what, view, shown, field, widths[shown.indexOf(field)] ?? 120));
    if (!result.complete && ['profile', 'up', 'down', 'also'].includes(what)) onNeedAll();
  };
  const find = () => {
    setFinding(true);
    if (!result.complete) onNeedAll();
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const { row, column } = at;
    const control = event.ctrlKey || event.metaKey;
    const field = shown[column];
    const controlled: Readonly<Record<string, () => void>> = {
      c: () => copy(columns, selection, stored),
      a: () => selection.all(total, columns.length),
      f: find,
      Home: () => move(0, column, event.shiftKey),
      End: () => move(total - 1, column, event.shiftKey),
    };
    const plain: Readonly<Record<string, () => void>> = {
      ArrowDown: () => move(row + 1, column, event.shiftKey),
      ArrowUp: () => move(row - 1, column, event.shiftKey),
      ArrowRight: () => move(row, column + 1, event.shiftKey),
      ArrowLeft: () => move(row, column - 1, event.shiftKey),
      PageDown: () => move(row + 20, column, event.shiftKey),
      PageUp: () => move(row - 20, column, event.shiftKey),
      Home: () => move(row, 0, event.shiftKey),
      End: () => move(row, columns.length - 1, event.shiftKey),
      Enter: () => openWhole(row, column),
      F3: find,
      f: () => follow(row),
      g: () => openMadeOf(row),
    };
    const what = control || event.altKey ? undefined : actOf(event.key, view, field);
    const run = control
      ? controlled[event.key.toLowerCase().replace('home', 'Home').replace('end', 'End')]
      : (plain[event.key] ?? (what && field !== undefined ? () => act(what, field) : undefined));
    if (!run || event.altKey) return;
    event.preventDefault();
    run();
  };
  // The profile takes room from the rows: the chosen cell comes back into sight beside it.
  useEffect(() => {
    if (profiled !== undefined)
      document.querySelector(`#cell-${selection.at.row}-${selection.at.column}`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [profiled, selection.at]);
  // A field that is new in the rows comes into sight.
  const known = useRef(shown);
  const { scrollToIndex } = across;
  useEffect(() => {
    const before = new Set(known.current);
    known.current = shown;
    const added = shown.flatMap((id, index) => (before.has(id) ? [] : [index]));
    const last = added.at(-1);
    if (last !== undefined && added.length <= MOST_NEW && last >= frozen) scrollToIndex(last - frozen);
  }, [shown, frozen, scrollToIndex]);
  const { move: choose } = selection;
  const point = useCallback((row: number, column: number, extending: boolean) => choose({ row, column }, extending), [choose]);
  const openLatest = useLatest(openWhole);
  const followLatest = useLatest(made ? openMadeOf : follow);
  const actLatest = useLatest(act);
  const widthLatest = useLatest((field: string, width: number) => onView(resized(view, field, width)));
  if (total === 0) return nothing ?? <p className="px-4 py-6 text-ink-soft">No row is left.</p>;
  const atProfile = result.columns.find((each) => each.id === profiled);
  return (
    <div className="flex h-full flex-col">
      {finding && (
        <FindBar
          result={result.id}
          complete={result.complete}
          sort={sort}
          row={at.row}
          onFound={(row, text) => void goTo(row, text)}
          onClose={() => {
            setFinding(false);
            box.current?.focus();
          }}
        />
      )}
      <div className="flex min-h-0 flex-1">
        <div
          ref={box}
          role="grid"
          tabIndex={0}
          aria-label={`${grouped(result.rows)} rows`}
          aria-rowcount={total + 1}
          aria-colcount={columns.length}
          aria-multiselectable
          aria-activedescendant={`cell-${at.row}-${at.column}`}
          onKeyDown={onKeyDown}
          className="figures min-w-0 flex-1 overflow-auto text-meta"
        >
          <GridHead across={seen} sort={view.sort} onAct={actLatest} onWidth={widthLatest} />
          <div role="presentation" className="relative" style={{ height: down.getTotalSize(), width: seen.width }}>
            {items.map((item) => {
              const row = item.index + skipped;
              const chosen = selection.several && row >= selection.rows.from && row <= selection.rows.until;
              return (
                <GridRow
                  key={item.index % RECYCLED}
                  row={row}
                  top={item.start}
                  height={ROW}
                  cells={rowAt(row)}
                  places={places}
                  across={seen}
                  active={at.row === row ? at.column : undefined}
                  chosenFrom={chosen ? selection.columns.from : undefined}
                  chosenUntil={chosen ? selection.columns.until : undefined}
                  onPoint={point}
                  onOpen={openLatest}
                  onPick={(made ?? onFollow) ? followLatest : undefined}
                  picking={made ?? 'follow'}
                />
              );
            })}
          </div>
        </div>
        {atProfile && (
          <ProfilePanel
            result={result.id}
            complete={result.complete}
            column={atProfile}
            onClose={() => {
              setProfiled(undefined);
              box.current?.focus();
            }}
          />
        )}
      </div>
      <p role="status" className={copied ? 'border-t bg-panel px-3 py-0.5 text-meta text-ink-soft' : 'sr-only'}>
        {copied}
      </p>
      {whole && <WholeCell result={result.id} {...whole} onClose={() => setWhole(undefined)} />}
    </div>
  );
}

/** The first field, of those shown, whose cell in a row holds the text; undefined when it stands in none of them. */
function columnHolding(text: string, cells: readonly Cell[], places: readonly number[]): number | undefined {
  const sought = text.toLowerCase();
  const found = places.findIndex((place) => {
    const cell = cells[place];
    const written = typeof cell === 'object' && cell !== null && 't' in cell ? cell.t : cell;
    return typeof written === 'string' && written.toLowerCase().includes(sought);
  });
  return found < 0 ? undefined : found;
}

/** A function that stays the same and always does what the newest one does, so that rows need not render for it. */
function useLatest<A extends readonly unknown[]>(newest: (...given: A) => void): (...given: A) => void {
  const latest = useRef(newest);
  useEffect(() => {
    latest.current = newest;
  });
  return useCallback((...given: A) => latest.current(...given), []);
}

/** Reads pages without listening to their requests: only the rows that arrive make the grid render. */
function useReadPage(result: string, total: number, sort: string | undefined) {
  const dispatch = useAppDispatch();
  return useCallback(
    async (page: number): Promise<Page | undefined> => {
      const { resultsRows } = api.endpoints;
      const rows: Page[number][] = [];
      // A page of very long cells comes in several pieces.
      for (let more = true; more;) {
        const asked = { id: result, offset: page * PAGE + rows.length, limit: PAGE - rows.length };
        const answer = await dispatch(resultsRows.initiate(sort === undefined ? asked : { ...asked, sort }, { subscribe: false }));
        const piece = answer.data as unknown as Page | undefined;
        if (!piece) return undefined;
        rows.push(...piece);
        more = piece.length > 0 && rows.length < Math.min(PAGE, total - page * PAGE);
      }
      return rows;
    },
    [result, total, sort, dispatch],
  );
}

function columnWidth({ name, type: given }: ResultColumnDto): number {
  const type = given as FieldType;
  const body = { text: 180, json: 220, whole: 100, decimal: 120, float: 140, yesno: 80, date: 100, time: 110, datetime: 180, instant: 200 }[
    type.kind
  ];
  return Math.min(320, Math.max(body, (name.length + typeWord(type).length) * 6.6 + 28));
}
