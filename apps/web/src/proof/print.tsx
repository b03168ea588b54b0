import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { createPortal } from 'react-dom';
import type { ProofTable, ReadLine } from '@cendra/core';
import { columnLink, columnWords, freeColumns, LEADS, legendOf, lineLabel, lineLink, lineReader } from '@cendra/core';
import type { ProofDto } from '../api';
import { PAGE } from '../bench/rows/use-pages';
import type { Failure } from '../api/problem';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import type { PaperOf } from './ask-paper';
import { whenDrawn } from './chart/when-drawn';
import { Letters } from './lines-grid';
import { lineLook, markedLook } from './line-looks';
import { PagesLine, usePages } from './print-pages';
import type { ProofAsked } from './use-read-lines';
import { useReadLines } from './use-read-lines';

/** More lines than this a browser does not lay out while one waits: they are put on pages by the server. */
export const MOST_PRINTED = 5_000;
/** More columns would run off its paper; of pages they go on on further ones. */
const COLUMNS_PRINTED = 14;

interface PrintProps {
  readonly asked: ProofAsked;
  readonly proof: ProofDto;
  readonly table: ProofTable;
  readonly paper: PaperOf;
  readonly notes: readonly string[];
}

const ChartFigure = lazy(() => import('./chart/chart-figure'));
/** Room for a chart on upright paper, in CSS pixels. */
const CHART_ON_PAPER = { width: 660, height: 240 };
const nextFrame = () => new Promise((resolve) => requestAnimationFrame(resolve));

/** Brings the lines together as a plain table and hands it to the browser's own printing; too many for that come as pages. */
export function PrintButton(props: PrintProps) {
  const [lines, setLines] = useState<readonly ReadLine[]>();
  const [state, setState] = useState<'ready' | 'reading' | 'failed'>('ready');
  const read = useReadLines(props.asked, props.proof.key);
  const pages = usePages(props.paper);
  const { lines: count } = props.proof;
  const { columns } = props.table;
  const gather = async () => {
    if (count > MOST_PRINTED || columns.length > COLUMNS_PRINTED) return pages.make();
    setState('reading');
    const lineOf = lineReader(props.proof, props.table.layout);
    const all: ReadLine[] = [];
    for (let page = 0; page * PAGE < count; page++) {
      const lines = await read(page);
      // A sheet that lacks lines without saying so would be believed.
      if (!lines) return setState('failed');
      all.push(...lines.map(lineOf));
    }
    setState('ready');
    setLines(all.slice(0, count));
  };
  // The browser's own key would print the screen, with the few lines in sight.
  const byKey = useRef(gather);
  useEffect(() => {
    byKey.current = gather;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'p') return;
      event.preventDefault();
      void byKey.current();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <>
      <PagesLine {...pages} lines={count} />
      <Button onClick={() => void gather()} disabled={state === 'reading' || pages.pages === 'making'}>
        Print
      </Button>
      {state === 'reading' && <Waiting what="Bringing the lines together" />}
      {state === 'failed' && <FailureNotice failure={NOT_ALL} />}
      {lines && <Sheet {...props} lines={lines} onDone={() => setLines(undefined)} />}
    </>
  );
}

const NOT_ALL: Failure = {
  status: 0,
  problems: [
    {
      code: 'lines-missing',
      severity: 'error',
      message: 'Not all lines could be brought together, so nothing was printed.',
      expected: 'to print again when the server answers',
      place: {},
    },
  ],
};

function Sheet({
  table,
  paper: { title, subtitle, chart },
  notes,
  lines,
  onDone,
}: PrintProps & { readonly lines: readonly ReadLine[]; readonly onDone: () => void }) {
  const sheet = useRef<HTMLElement>(null);
  useEffect(() => {
    document.body.dataset.printing = '';
    window.addEventListener('afterprint', onDone);
    const stop = new AbortController();
    // After the browser has laid out the table, and drawn the chart.
    const ready = chart === undefined ? nextFrame() : whenDrawn(sheet.current ?? document, stop.signal);
    void ready.then(() => {
      if (!stop.signal.aborted) window.print();
    });
    return () => {
      stop.abort();
      window.removeEventListener('afterprint', onDone);
      delete document.body.dataset.printing;
    };
  }, [onDone, chart]);
  return createPortal(
    <article ref={sheet} className="print-sheet figures">
      <h1 className="font-serif text-title">{title}</h1>
      {subtitle !== undefined && <p className="font-serif text-base">{subtitle}</p>}
      {[...notes, ...legendOf(table)].map((note) => (
        <p key={note} className="text-meta">
          {note}
        </p>
      ))}
      {chart && (
        <Suspense fallback={null}>
          <ChartFigure chart={chart.reading.chart} drawn={chart.drawn} says={chart.says} {...CHART_ON_PAPER} />
        </Suspense>
      )}
      <table className="mt-3 w-full border-collapse text-meta">
        <thead>
          {table.heads.map((heads, depth) => (
            <tr key={depth} className="text-left">
              <th aria-label="group" />
              {heads.map(({ words, first, columns }) => (
                <th key={first} scope="colgroup" colSpan={columns} className="px-1.5 text-right">
                  {words}
                </th>
              ))}
            </tr>
          ))}
          <tr className="border-b border-ink text-left">
            {table.worded && <th scope="col" aria-label="group" />}
            {table.columns.map((column) => (
              <th key={column.key} scope="col" className={`px-1.5 ${column.number ? 'text-right' : ''}`}>
                {column.header}
                {column.number && <Letters column={column} letters="" />}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line, index) => {
            const free = table.worded ? freeColumns(line, table) : 0;
            return (
              <tr key={index} className={lineLook(line, table.layout)}>
                {table.worded && (
                  <th
                    colSpan={1 + free}
                    className="w-px px-1.5 text-left font-normal whitespace-nowrap"
                    style={{ paddingLeft: Math.max(0, line.level - 1) * 12 }}
                  >
                    {led(lineLink(line, table), LEADS) ?? lineLabel(line, table)}
                  </th>
                )}
                {table.columns.slice(free).map((column) => {
                  const { look, letters } = markedLook(line, column, table);
                  return (
                    <td key={column.key} className={`px-1.5 align-top ${column.number ? 'text-right whitespace-nowrap' : ''} ${look}`}>
                      {led(columnLink(line, column), columnWords(line, column, table)) ?? columnWords(line, column, table)}
                      <Letters column={column} letters={letters} />
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </article>,
    document.body,
  );
}

/** Browsers keep links in what they print to a file. */
function led(address: string | undefined, words: string) {
  return address === undefined ? undefined : <a href={address}>{words}</a>;
}
