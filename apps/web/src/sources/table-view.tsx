import { Link } from 'react-router';
import type { Role } from '@cendra/core';
import type { DescribedTableDto, SampleDto, SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { useBegin } from '../datasets/use-begin';
import { Button } from '../ui/button';
import { CellText } from '../ui/cell';
import { clock, grouped } from '../ui/format';
import { RoleGlyph } from '../ui/glyphs';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { SourceText } from './source-text';

interface TableViewProps {
  readonly source: SourceDto;
  readonly schema: string;
  readonly table: string;
}

/** One table of a source: how many rows, its columns, keys and relations, and sample rows. */
export function TableView({ source, schema, table }: TableViewProps) {
  const at = { id: source.id, schema, table };
  const described = api.useSourcesDescribeQuery(at);
  const sample = api.useSourcesSampleQuery(at);
  const { begin, beginning, failure } = useBegin();
  if (!described.data)
    return (
      <div className="p-4">
        {described.error ? <FailureNotice failure={failureOf(described.error)} /> : <Waiting what="Asking the source about the table" />}
      </div>
    );
  return (
    <article className="space-y-4 p-4" aria-label={`Table ${table}`}>
      <div className="flex items-center gap-3">
        <h2 className="text-section font-medium">
          <span className="text-ink-faint">{schema}.</span>
          {table}
        </h2>
        <RowCount {...at} estimate={described.data.estimate} />
        <div className="ml-auto">
          <Button kind="primary" onClick={() => void begin({ source: source.id, schema, table })} disabled={beginning}>
            Start a dataset from it
          </Button>
        </div>
      </div>
      <FailureNotice failure={failure} />
      <ViewText {...at} />
      <Columns table={described.data} />
      <Relations table={described.data} />
      <section aria-label="Sample rows" className="space-y-1">
        <h3 className="font-medium">
          Sample rows{' '}
          {sample.data && (
            <span className="figures text-meta font-normal text-ink-soft">
              {sample.data.rows.length} of the source, {clock(sample.data.asOf)}
            </span>
          )}
        </h3>
        {sample.data ? (
          <Sample sample={sample.data} />
        ) : sample.error ? (
          <FailureNotice failure={failureOf(sample.error)} />
        ) : (
          <Waiting what="Reading some rows" />
        )}
      </section>
    </article>
  );
}

/** The query a view stands for, to read and to start from. A table has none. */
function ViewText({ id, schema, table }: { readonly id: string; readonly schema: string; readonly table: string }) {
  const { data } = api.useSourcesTablesQuery({ id, search: table, limit: 500 });
  const isView = data?.tables.some((each) => each.schema === schema && each.name === table && each.view) === true;
  const text = api.useRoutinesViewTextQuery({ id, schema, table }, { skip: !isView });
  const { beginText, beginning, failure } = useBegin();
  if (!isView) return null;
  return (
    <SourceText of={table} text={text.data?.text} failure={failureOf(text.error) ?? failure}>
      <Button small disabled={!text.data || beginning} onClick={() => text.data && void beginText(id, text.data.text, { title: '' })}>
        Start a dataset from this text
      </Button>
    </SourceText>
  );
}

function RowCount({
  id,
  schema,
  table,
  estimate,
}: {
  readonly id: string;
  readonly schema: string;
  readonly table: string;
  readonly estimate: number | null;
}) {
  const [count, counted] = api.useLazySourcesCountQuery();
  if (counted.data) return <span className="figures text-moss">{grouped(counted.data.rows)} rows, exactly</span>;
  return (
    <span className="figures flex items-center gap-2 text-ink-soft">
      {estimate === null ? 'rows not estimated' : `~${grouped(estimate)} rows, estimated`}
      <Button small onClick={() => void count({ id, schema, table })} disabled={counted.isFetching}>
        {counted.isFetching ? 'Counting …' : 'Count exactly'}
      </Button>
      <FailureNotice failure={failureOf(counted.error)} />
    </span>
  );
}

function Columns({ table }: { readonly table: DescribedTableDto }) {
  return (
    <table className="w-full border-t">
      <thead>
        <tr className="border-b text-left text-meta text-ink-soft">
          <th className="py-1 font-normal">column</th>
          <th className="font-normal">type</th>
          <th className="font-normal">in the source</th>
          <th className="font-normal">key</th>
          <th className="font-normal">may be null</th>
          <th className="font-normal">remark</th>
        </tr>
      </thead>
      <tbody>
        {table.columns.map((column) => (
          <tr key={column.name} className="border-b">
            <td className="py-1">
              <span className="flex items-center gap-2">
                <RoleGlyph role={column.role as Role} />
                {column.name}
              </span>
            </td>
            <td>{column.typeWord}</td>
            <td className="font-mono text-meta text-ink-soft">
              {column.declaredType === column.sourceType ? column.sourceType : `${column.declaredType}: ${column.sourceType}`}
            </td>
            <td>
              {[column.primaryKey && 'primary key', column.foreignKey && 'foreign key', column.unique && !column.primaryKey && 'unique']
                .filter(Boolean)
                .join(', ')}
            </td>
            <td>{column.nullable ? 'yes' : 'no'}</td>
            <td className="text-ink-soft">{column.comment}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Relations({ table }: { readonly table: DescribedTableDto }) {
  if (table.relations.length === 0) return <p className="text-ink-soft">No relation to another table is declared.</p>;
  return (
    <section aria-label="Relations">
      <h3 className="font-medium">Relations</h3>
      <ul>
        {table.relations.map((each, index) => {
          const other = `${each.otherSchema}/${each.otherTable}`;
          return (
            <li key={index} className="border-b py-1">
              <span className="text-ink-soft">{each.direction === 'out' ? 'points to' : 'is pointed to by'}</span>{' '}
              <Link
                className="underline underline-offset-2"
                to={{ search: `?${new URLSearchParams({ tab: 'Tables', table: other }).toString()}` }}
              >
                {each.otherTable}
              </Link>{' '}
              <span className="font-mono text-meta text-ink-soft">
                {each.columns.join(', ')} = {each.otherColumns.join(', ')}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** Rows straight from the source, with nulls and blanks seen. */
export function Sample({ sample }: { readonly sample: SampleDto }) {
  return (
    <div className="overflow-auto border" tabIndex={0} role="region" aria-label="Sample rows">
      <table className="figures text-meta">
        <thead>
          <tr className="bg-panel text-left">
            {sample.columns.map((name) => (
              <th key={name} scope="col" className="border-r border-b px-2 py-1 font-medium whitespace-nowrap">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sample.rows.map((row, index) => (
            <tr key={index} className="border-b">
              {row.map((cell, at) => (
                <td key={at} className="h-7 max-w-60 truncate border-r px-2">
                  <CellText text={cell} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
