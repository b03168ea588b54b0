import { X } from 'lucide-react';
import { lazy, Suspense, useEffect, useRef } from 'react';
import type { FieldType } from '@cendra/core';
import { isNumber, typeWord, writerOf } from '@cendra/core';
import type { ProfileDto, ResultColumnDto } from '../../api';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { CellText } from '../../ui/cell';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { Waiting } from '../../ui/waiting';

const SpreadChart = lazy(() => import('./spread-chart'));

interface ProfilePanelProps {
  readonly result: string;
  readonly complete: boolean;
  readonly column: ResultColumnDto;
  readonly onClose: () => void;
}

/** What the values of a field are like, over all stored rows. Esc closes it. */
export function ProfilePanel({ result, complete, column, onClose }: ProfilePanelProps) {
  const profile = api.useResultsProfileQuery({ id: result, field: column.id });
  const type = column.type as FieldType;
  const box = useRef<HTMLElement>(null);
  useEffect(() => box.current?.focus(), [column.id]);
  return (
    <aside
      ref={box}
      tabIndex={-1}
      aria-label={`Profile of ${column.name}`}
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
      className="figures h-full w-72 -outline-offset-2 shrink-0 overflow-auto border-l bg-paper p-3 text-meta"
    >
      <div className="flex items-baseline gap-2">
        <h3 className="truncate text-base font-medium">{column.name}</h3>
        <span className="text-ink-soft">{typeWord(type)}</span>
        <button type="button" aria-label="Close the profile" onClick={onClose} className="ml-auto text-ink-faint hover:text-ink">
          <X size={16} strokeWidth={1.75} aria-hidden />
        </button>
      </div>
      <FailureNotice failure={failureOf(profile.error)} />
      {profile.isFetching && <Waiting what="Reading all values" />}
      {profile.currentData && <Figures profile={profile.currentData} type={type} complete={complete} />}
    </aside>
  );
}

function Figures({ profile, type, complete }: { readonly profile: ProfileDto; readonly type: FieldType; readonly complete: boolean }) {
  const write = writerOf({ type, role: 'measure' }, undefined);
  const shown = (value: string | null) => (value === null ? null : isNumber(type) ? write(value) : value);
  const share = (rows: string) => (profile.rows === '0' ? '' : `${((Number(rows) / Number(profile.rows)) * 100).toFixed(1)} %`);
  const lines: readonly (readonly [string, React.ReactNode, string?])[] = [
    ['rows', grouped(profile.rows)],
    ['null', grouped(profile.nulls), share(profile.nulls)],
    ...(type.kind === 'text' ? [['empty text', grouped(profile.empty), share(profile.empty)] as const] : []),
    ['distinct', grouped(profile.distinct)],
    ...(profile.least === null ? [] : [['least', shown(profile.least)] as const, ['greatest', shown(profile.greatest)] as const]),
    ...(profile.mean === null ? [] : [['mean', shown(profile.mean)] as const]),
  ];
  return (
    <>
      {!complete && <p className="mt-1 text-amber">Of the rows that are here; there are more in the source.</p>}
      <table className="mt-2 w-full border-t">
        <tbody>
          {lines.map(([word, value, more]) => (
            <tr key={word} className="border-b">
              <th scope="row" className="py-0.5 text-left font-normal text-ink-soft">
                {word}
              </th>
              <td className="max-w-36 truncate text-right">{value}</td>
              <td className="w-14 text-right text-ink-faint">{more}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {profile.spread.length > 0 && (
        <Suspense fallback={<div className="h-28" />}>
          <SpreadChart spread={profile.spread} />
        </Suspense>
      )}
      <h4 className="mt-3 text-ink-soft">most frequent</h4>
      <table className="w-full border-t">
        <tbody>
          {profile.top.map(({ value, rows }, index) => (
            <tr key={index} className="border-b">
              <th scope="row" className="max-w-36 truncate py-0.5 text-left font-normal whitespace-pre">
                <CellText text={shown(value)} />
              </th>
              <td className="text-right">{grouped(rows)}</td>
              <td className="w-14 text-right text-ink-faint">{share(rows)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
