import { memo } from 'react';
import type { HeaderAct } from './grid-header';
import { GridHeader } from './grid-header';
import type { Across } from './grid-row';
import { Lead, rendered } from './grid-row';
import type { SortBy } from './sort';

interface GridHeadProps {
  readonly across: Across;
  readonly sort: readonly SortBy[];
  readonly onAct: (what: HeaderAct, field: string) => void;
  readonly onWidth: (field: string, width: number) => void;
}

/** The names of the fields, which stay while rows scroll. */
export const GridHead = memo(function GridHead({ across, sort, onAct, onWidth }: GridHeadProps) {
  const { columns, widths, lefts, frozen, from, lead, width } = across;
  return (
    <div role="row" aria-rowindex={1} className="sticky top-0 z-20 flex min-w-full border-b bg-panel" style={{ width }}>
      <span role="presentation" className="sticky left-0 z-15 h-7 shrink-0 border-r bg-panel" style={{ width: across.gutter }} />
      {rendered(across).map((index) => {
        const column = columns[index];
        if (!column) return null;
        const place = sort.findIndex((each) => each.field === column.id);
        return (
          <Lead key={column.id} width={index === from ? lead : 0}>
            <GridHeader
              column={column}
              index={index}
              width={widths[index] ?? 120}
              frozenAt={index < frozen ? lefts[index] : undefined}
              isLastFrozen={index === frozen - 1}
              sorted={place < 0 ? undefined : { place: place + 1, of: sort.length, descending: sort[place]?.descending ?? false }}
              onAct={(what) => onAct(what, column.id)}
              onWidth={(next) => onWidth(column.id, next)}
            />
          </Lead>
        );
      })}
    </div>
  );
});
