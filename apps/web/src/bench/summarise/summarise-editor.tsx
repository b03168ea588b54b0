import { Plus, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import type {
  CheckedOf,
  ExpressionText,
  Field,
  FieldType,
  Problem,
  Schema,
  SummaryAggregate,
  SummaryKey,
  SummaryValue,
} from '@cendra/core';
import {
  addItem,
  checkedOf,
  fieldById,
  firstArriving,
  isDay,
  isNumber,
  linkReferences,
  removeItem,
  setItem,
  SUMMARY_AGGREGATES,
  writtenName,
} from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { StatementShown } from '../criteria/statement-shown';
import { mint } from '../mint';
import { ChoiceSlot, FieldSlot, TextSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import type { Bench } from '../use-bench';

/** “One row per region and month of picked on, with sum of kilos as kilos.” */
export default function SummariseEditor(props: StepEditorProps) {
  const summary = checkedOf('summarise', props.checked);
  return summary && <Summary {...props} summary={summary} />;
}

type SummaryProps = StepEditorProps & { readonly summary: CheckedOf<'summarise'> };

const NOTHING: ExpressionText = { text: '', refs: [] };

function Summary({ bench, checked, summary }: SummaryProps) {
  const { edit, withoutValues, trail } = bench;
  const { step, problems } = summary;
  const { schema } = firstArriving(summary);
  const [fresh, setFresh] = useState<string>();
  const names = useMemo(() => new Set([...step.keys, ...step.values].map((each) => each.name)), [step.keys, step.values]);
  const general = problems.filter(({ place, severity }) => place.field === undefined && severity !== 'hint');
  const addKey = () => {
    const key: SummaryKey = { id: mint(), name: '', expression: NOTHING };
    setFresh(key.id);
    edit(addItem(step, 'keys', key, step.keys.length));
  };
  const addValue = () => {
    const value: SummaryValue = {
      id: mint(),
      name: freeName('rows', names),
      aggregate: 'rows',
      expression: NOTHING,
      among: NOTHING,
      order: NOTHING,
    };
    setFresh(value.id);
    edit(addItem(step, 'values', value, step.values.length));
  };
  const of = (id: string) => problems.filter((each) => each.place.field === id);
  return (
    <div className="px-3 py-2">
      <p className="font-medium">One row per</p>
      <ol aria-label="Grouped by" className="border-t">
        {step.keys.map((key, at) => (
          <li key={key.id} className="border-b py-1">
            <KeyLine
              bench={bench}
              item={key}
              number={at + 1}
              schema={schema}
              names={names}
              type={summary.checked.keys[at]?.expression?.type}
              problems={of(key.id)}
              fresh={fresh === key.id}
              onChange={(to) => edit(setItem(step, 'keys', key, to))}
              onRename={(to) => edit({ kind: 'rename field', step: step.id, field: key.id, from: key.name, to })}
              onRemove={() => edit(removeItem(step, 'keys', key))}
            />
          </li>
        ))}
        {step.keys.length === 0 && <li className="py-1 text-ink-soft">nothing yet: all rows become one</li>}
      </ol>
      {!withoutValues && (
        <Button small icon={Plus} onClick={addKey}>
          Group by a field
        </Button>
      )}
      <p className="mt-3 font-medium">with</p>
      <ol aria-label="Figures" className="border-t">
        {step.values.map((value, at) => (
          <li key={value.id} className="border-b py-1">
            <ValueLine
              bench={bench}
              item={value}
              number={at + 1}
              schema={schema}
              names={names}
              problems={of(value.id)}
              fresh={fresh === value.id}
              parameters={trail.definition.parameters}
              onChange={(to) => edit(setItem(step, 'values', value, to))}
              onRename={(to) => edit({ kind: 'rename field', step: step.id, field: value.id, from: value.name, to })}
              onRemove={() => edit(removeItem(step, 'values', value))}
            />
          </li>
        ))}
      </ol>
      {!withoutValues && (
        <Button small icon={Plus} onClick={addValue}>
          Add a figure
        </Button>
      )}
      {general.map((problem, index) => (
        <div key={index} role="alert" className="mt-2">
          <ProblemLine problem={problem} />
        </div>
      ))}
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}

interface LineProps<I> {
  readonly bench: Bench;
  readonly item: I;
  readonly number: number;
  readonly schema: Schema;
  /** Names that are taken in the step. */
  readonly names: ReadonlySet<string>;
  readonly problems: readonly Problem[];
  readonly fresh: boolean;
  readonly onChange: (to: I) => void;
  readonly onRename: (to: string) => void;
  readonly onRemove: () => void;
}

const BUCKETS = ['day', 'week', 'month', 'quarter', 'year', 'season'] as const;
type Bucket = (typeof BUCKETS)[number];
const AS_IT_IS = 'as it is';

/** `start_of_month(picked_on)` as its field and its stretch of days. */
function bucketOf({ text }: ExpressionText): { readonly bucket: Bucket; readonly inner: string } | undefined {
  const found = /^\s*start_of_(week|month|quarter|year|season)\((.*)\)\s*$/s.exec(text);
  if (found) return { bucket: found[1] as Bucket, inner: found[2] ?? '' };
  const day = /^\s*cast\((.*) as date\)\s*$/s.exec(text);
  return day ? { bucket: 'day', inner: day[1] ?? '' } : undefined;
}

const bucketed = (bucket: Bucket | typeof AS_IT_IS, inner: string) =>
  bucket === AS_IT_IS ? inner : bucket === 'day' ? `cast(${inner} as date)` : `start_of_${bucket}(${inner})`;

const keyName = (bucket: Bucket | typeof AS_IT_IS, field: string) => (bucket === AS_IT_IS ? field : `${bucket}_of_${field}`);

function KeyLine({
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
  const inner = found ? { text: found.inner, refs: shiftedRefs(item.expression, found.inner) } : item.expression;
  const field = plainField(inner, schema);
  const write = (text: string, name = item.name) => onChange({ ...item, name, expression: linkReferences(text, { schema, parameters }) });
  /** A name nobody gave follows what rows are grouped by. */
  const named = (bucket: Bucket | typeof AS_IT_IS, of: string) => {
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
            choices={[AS_IT_IS, ...BUCKETS]}
            disabled={bench.withoutValues}
            onChange={(bucket) => write(bucketed(bucket, inner.text), named(bucket, field?.name ?? item.name))}
          />
        )}
        {days && found && 'of'}
        <SideSlot
          bench={bench}
          label={`Group ${number}`}
          value={inner}
          field={field}
          schema={schema}
          autoFocus={fresh && item.expression.text === ''}
          onField={(each) =>
            write(bucketed(found?.bucket ?? AS_IT_IS, writtenName('field', each.name)), named(found?.bucket ?? AS_IT_IS, each.name))
          }
          onWrite={(text) => write(text, item.name || freeName('group', names))}
        />
        as
        <TextSlot
          label={`Name of group ${number}`}
          value={item.name}
          placeholder="name"
          wrong={problems.some(({ code }) => code.startsWith('name'))}
          disabled={bench.withoutValues}
          onKeep={(to) => onRename(to.trim())}
        />
        <Remove label={`Do not group by ${item.name || number}`} disabled={bench.withoutValues} onRemove={onRemove} />
      </div>
      <Problems problems={problems} />
    </>
  );
}

interface ValueProps extends LineProps<SummaryValue> {
  readonly parameters: Bench['trail']['definition']['parameters'];
}

/** What is offered first: no sum of what is no measure, and none by itself. */
function offeredFor(type: FieldType | undefined, role: Field['role'] | undefined): readonly SummaryAggregate[] {
  if (!type) return SUMMARY_AGGREGATES;
  const sums = isNumber(type) && role !== 'key' && role !== 'code';
  return SUMMARY_AGGREGATES.filter((each) => {
    if (each === 'sum' || each === 'average' || each === 'median') return sums;
    if (each === 'share') return false;
    return type.kind !== 'json' || each === 'rows' || each === 'count';
  });
}

function ValueLine({ bench, item, number, schema, names, problems, fresh, parameters, onChange, onRename, onRemove }: ValueProps) {
  const [among, setAmong] = useState(item.among.text !== '');
  const field = plainField(item.expression, schema);
  const link = (text: string) => linkReferences(text, { schema, parameters });
  const aggregates = field ? [...offeredFor(field.type, field.role), 'share' as const] : SUMMARY_AGGREGATES;
  const ordered = item.aggregate === 'first' || item.aggregate === 'last';
  const made = defaultName(item, field?.name);
  const change = (to: Partial<SummaryValue>) => {
    const next = { ...item, ...to };
    const now = defaultName(next, plainField(next.expression, schema)?.name);
    // A name nobody gave follows what is told.
    onChange(
      item.name === made || /^(rows|figure)(_\d+)?$/.test(item.name)
        ? { ...next, name: freeName(now, new Set([...names].filter((each) => each !== item.name))) }
        : next,
    );
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="figures w-6 text-right text-ink-soft">{number}</span>
        <ChoiceSlot
          label={`Figure ${number}`}
          value={item.aggregate}
          choices={aggregates}
          disabled={bench.withoutValues}
          onChange={(aggregate) => change({ aggregate, ...(aggregate === 'rows' ? { expression: NOTHING, order: NOTHING } : {}) })}
        />
        {item.aggregate !== 'rows' && (item.aggregate === 'share' ? 'of rows with' : 'of')}
        {item.aggregate !== 'rows' && (
          <SideSlot
            bench={bench}
            label={`Of what figure ${number} is`}
            value={item.expression}
            field={field}
            schema={schema}
            autoFocus={fresh}
            onField={(each) => change({ expression: link(writtenName('field', each.name)) })}
            onWrite={(text) => change({ expression: link(text) })}
          />
        )}
        {ordered && (
          <>
            by
            <SideSlot
              bench={bench}
              label={`By what figure ${number} is told`}
              value={item.order}
              field={plainField(item.order, schema)}
              schema={schema}
              autoFocus={false}
              onField={(each) => change({ order: link(writtenName('field', each.name)) })}
              onWrite={(text) => change({ order: link(text) })}
            />
          </>
        )}
        {among ? (
          <>
            among the rows where
            <TextSlot
              label={`Among which rows figure ${number} is told`}
              value={item.among.text}
              placeholder="a condition, such as grade = 'A'"
              look="font-mono"
              disabled={bench.withoutValues}
              autoFocus={item.among.text === ''}
              onKeep={(text) => {
                if (text.trim() === '') setAmong(false);
                change({ among: link(text) });
              }}
            />
          </>
        ) : (
          !bench.withoutValues && (
            <Button small kind="quiet" onClick={() => setAmong(true)}>
              among the rows where …
            </Button>
          )
        )}
        as
        <TextSlot
          label={`Name of figure ${number}`}
          value={item.name}
          placeholder="name"
          wrong={problems.some(({ code }) => code.startsWith('name'))}
          disabled={bench.withoutValues}
          onKeep={(to) => onRename(to.trim())}
        />
        <Remove label={`Remove ${item.name || `figure ${number}`}`} disabled={bench.withoutValues} onRemove={onRemove} />
      </div>
      <Problems problems={problems} />
    </>
  );
}

interface SideSlotProps {
  readonly bench: Bench;
  readonly label: string;
  readonly value: ExpressionText;
  readonly field: Field | undefined;
  readonly schema: Schema;
  readonly autoFocus: boolean;
  readonly onField: (field: Field) => void;
  readonly onWrite: (text: string) => void;
}

function SideSlot({ bench, label, value, field, schema, autoFocus, onField, onWrite }: SideSlotProps) {
  if (field || value.text === '')
    return (
      <FieldSlot
        label={label}
        schema={schema}
        field={field}
        missing={false}
        disabled={bench.withoutValues}
        autoFocus={autoFocus}
        onField={onField}
        onExpression={onWrite}
      />
    );
  return (
    <TextSlot
      label={label}
      value={value.text}
      placeholder="field, or an expression"
      look="font-mono"
      disabled={bench.withoutValues}
      onKeep={onWrite}
    />
  );
}

function Remove({ label, disabled, onRemove }: { readonly label: string; readonly disabled: boolean; readonly onRemove: () => void }) {
  if (disabled) return null;
  return (
    <button type="button" aria-label={label} onClick={onRemove} className="ml-auto p-1 text-ink-faint hover:text-ink">
      <X size={16} strokeWidth={1.75} aria-hidden />
    </button>
  );
}

const Problems = ({ problems }: { readonly problems: readonly Problem[] }) =>
  problems.map((problem, index) => (
    <div key={index} role="alert" className="pl-8">
      <ProblemLine problem={problem} />
    </div>
  ));

/** The field a text is, where it is nothing but one. */
function plainField({ text, refs }: ExpressionText, schema: Schema): Field | undefined {
  const [only] = refs;
  return refs.length === 1 && only?.kind === 'field' && only.from === 0 && only.to === text.length ? fieldById(schema, only.id) : undefined;
}

/** References of a part of a text, counted from its beginning. */
function shiftedRefs({ text, refs }: ExpressionText, inner: string): ExpressionText['refs'] {
  const from = text.indexOf(inner);
  return refs.map((each) => ({ ...each, from: each.from - from, to: each.to - from }));
}

const WORDS: Readonly<Record<SummaryAggregate, string>> = {
  rows: 'rows',
  count: 'count_of',
  'distinct count': 'different',
  sum: '',
  average: 'average',
  least: 'least',
  greatest: 'greatest',
  median: 'median',
  first: 'first',
  last: 'last',
  share: 'share_of',
};

/** A sum keeps its field's name; other figures say what they are. */
function defaultName({ aggregate }: Pick<SummaryValue, 'aggregate'>, field: string | undefined): string {
  if (aggregate === 'rows') return 'rows';
  const word = WORDS[aggregate];
  if (field === undefined) return word === '' ? 'figure' : word;
  return word === '' ? field : `${word}_${field}`;
}

function freeName(name: string, taken: ReadonlySet<string>): string {
  for (let number = 2, candidate = name; ; candidate = `${name}_${number++}`) if (!taken.has(candidate)) return candidate;
}
