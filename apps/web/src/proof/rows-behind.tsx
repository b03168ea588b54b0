import { DialogTitle } from '@headlessui/react';
import { useEffect, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { ProofTable, ReadLine, SheetField } from '@cendra/core';
import { BEHIND_TEXT_MOST, cellText, groupText, isNumber, writerOf } from '@cendra/core';
import { api } from '../api';
import { failureOf } from '../api/problem';
import type { RowElsewhere } from '../bench/follow/use-follow';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import { grouped } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import { Overlay } from '../ui/overlay';
import { TextRows } from '../ui/text-rows';
import type { ProofAsked } from './use-read-lines';

/** A line of the proof, and one of its columns per value, whose rows are looked at. */
export interface AskedBehind {
  readonly index: number;
  readonly line: ReadLine;
  readonly place: number | undefined;
}

interface RowsBehindProps {
  readonly asked: ProofAsked;
  readonly table: ProofTable;
  readonly behind: AskedBehind;
  readonly onClose: () => void;
}

const EVERYTHING = 'all columns';

/** The rows a line of the proof is made of, or one of its figures. */
export function RowsBehind({
  asked: { result, dataset, revision },
  table,
  behind: { index, line, place: first },
  onClose,
}: RowsBehindProps) {
  const [chosen, setChosen] = useState(first);
  const [fetch, fetching] = api.useProofBehindMutation();
  useEffect(() => {
    const place = chosen === undefined ? {} : { place: chosen };
    const asking = fetch({ id: result, rowsBehindAskedDto: { dataset, revision, line: index, level: line.level, ...place } });
    return () => asking.abort();
  }, [fetch, result, dataset, revision, index, line.level, chosen]);
  const { data } = fetching;
  const count = chosen === undefined ? line.rows : line.cellRows(chosen);
  const places = table.places?.words ?? [];
  const fields = (data?.fields ?? []).flatMap((id) => table.fields.find((each) => each.id === id) ?? []);
  const navigate = useNavigate();
  const { search } = useLocation();
  const follow = (of: readonly SheetField[], cells: readonly (string | null)[]) => {
    // A text that may have been cut tells no row.
    const row: RowElsewhere = {
      columns: of.map(({ id }) => ({ id })),
      cells: cells.map((each) => (each !== null && each.length >= BEHIND_TEXT_MOST ? undefined : each)),
    };
    void navigate({ pathname: '../bench', search }, { relative: 'path', state: { follow: row } });
  };
  const writers = fields.map((each) => writerOf({ type: each.type, role: each.role }, each.format));
  return (
    <Overlay place="top" look="flex max-h-full w-[64rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Rows of {groupWords(line, table)}</DialogTitle>
      <div className="min-h-0 flex-1 overflow-auto px-3 py-2">
        <p className="flex flex-wrap items-center gap-2">
          <span role="status">{data ? countWords(count ?? '0', data.rows.length, data.more) : 'Looking for them …'}</span>
          {places.length > 0 && (
            <>
              in
              <ChoiceSlot
                label="Column whose rows are shown"
                value={chosen === undefined ? EVERYTHING : (places[chosen] ?? EVERYTHING)}
                choices={[EVERYTHING, ...places]}
                onChange={(choice) => setChosen(choice === EVERYTHING ? undefined : places.indexOf(choice))}
              />
            </>
          )}
        </p>
        <FailureNotice failure={failureOf(fetching.error)} />
        {data && data.rows.length > 0 && (
          <TextRows
            label="Rows behind the figure"
            names={fields.map((each) => each.label)}
            numbers={fields.map((each) => isNumber(each.type))}
            act={{ words: 'Follow', onPick: (at) => follow(fields, data.rows[at] ?? []) }}
            rows={data.rows.map((row) => row.map((cell, at) => (cell === null ? null : cellText(cell, writers[at] ?? String))))}
          />
        )}
      </div>
      <div className="flex justify-end border-t px-3 py-2">
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </Overlay>
  );
}

/** The values of all levels its group is made by. */
function groupWords(line: ReadLine, table: ProofTable): string {
  const words = table.layout.levels.slice(0, line.level).map((_level, at) => groupText(line, at + 1, table));
  return words.length === 0 ? 'everything' : words.join(', ');
}

function countWords(count: string, shown: number, more: boolean): string {
  if (shown === 0) return 'No row';
  return more ? `The first ${shown} of ${grouped(count)} rows` : `${grouped(count)} ${count === '1' ? 'row' : 'rows'}`;
}
