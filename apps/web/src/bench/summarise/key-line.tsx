import type { DayStretch, ExpressionText, FieldType, SummaryKey } from '@cendra/core';
import { DAY_STRETCHES, freeName, isDay, linkReferences } from '@cendra/core';
import { ExpressionSlot, plainField } from '../expression-slot';
import { ChoiceSlot } from '../slots';
import type { LineProps } from './line';
import { AS_IT_IS, bucketOf } from './bucket';
import { LineEnd, LineProblems } from './line';

const bucketed = (bucket: DayStretch | typeof AS_IT_IS, inner: string) =>
  bucket === AS_IT_IS ? inner : bucket === 'day' ? `cast(${inner} as date)` : `start_of_${bucket}(${inner})`;

const keyName = (bucket: DayStretch | typeof AS_IT_IS, field: string) => (bucket === AS_IT_IS ? field : `${bucket}_of_${field}`);

/** What rows are grouped by, days by a stretch of them. */
export function KeyLine({
  bench,
  item,
  number,
  schema,
  names,
  type,
  problems,
  fresh,
  onChange,
  onRename,
  onRemove,
}: LineProps<SummaryKey> & { readonly type: FieldType | undefined }) {
  const { parameters } = bench.trail.definition;
  const found = bucketOf(item.expression);
  const inner: ExpressionText = found
    ? { text: found.inner, refs: item.expression.refs.map((each) => ({ ...each, from: each.from - found.from, to: each.to - found.from })) }
    : item.expression;
  const field = plainField(inner, schema);
  const write = (text: string, name = item.name) => onChange({ ...item, name, expression: linkReferences(text, { schema, parameters }) });
  /** A name nobody gave follows what rows are grouped by. */
  const named = (bucket: DayStretch | typeof AS_IT_IS, of: string) => {
    const own = item.name === '' || (field !== undefined && item.name.startsWith(keyName(found?.bucket ?? AS_IT_IS, field.name)));
    return own ? freeName(keyName(bucket, of), new Set([...names].filter((each) => each !== item.name))) : item.name;
  };
  const days = field ? isDay(field.type) : type !== undefined && isDay(type);
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="figures w-6 text-right text-ink-soft">{number}</span>
        {days && (
          <ChoiceSlot
            label={`Group ${number}, by which stretch of days`}
            value={found?.bucket ?? AS_IT_IS}
            choices={[AS_IT_IS, ...DAY_STRETCHES]}
            disabled={bench.withoutValues}
            onChange={(bucket) => write(bucketed(bucket, inner.text), named(bucket, field?.name ?? item.name))}
          />
        )}
        {days && found && 'of'}
        <ExpressionSlot
          bench={bench}
          label={`Group ${number}`}
          value={inner}
          schema={schema}
          autoFocus={fresh && item.expression.text === ''}
          onKeep={({ text }, to) => {
            const bucket = found?.bucket ?? AS_IT_IS;
            write(bucketed(bucket, text), to ? named(bucket, to.name) : item.name || freeName('group', names));
          }}
        />
        <LineEnd bench={bench} item={item} called={`group ${number}`} problems={problems} onRename={onRename} onRemove={onRemove} />
      </div>
      <LineProblems problems={problems} />
    </>
  );
}
