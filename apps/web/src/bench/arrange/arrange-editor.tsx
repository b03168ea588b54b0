import type { ReactNode } from 'react';
import { X } from 'lucide-react';
import type { ArrangeStep, CheckedOf, Field, FieldId, Language, Problem, Schema } from '@cendra/core';
import { addItem, checkedOf, fieldById, firstArriving, languageOf, LANGUAGES, linkReferences, removeItem, setItem } from '@cendra/core';
import { ProblemLine } from '../../ui/notice';
import { StatementShown } from '../runnable/statement-shown';
import { mint } from '../mint';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import { FieldsChosen } from './fields-chosen';

/** “Sorted by kilos, descending, nulls last; the first 10 of each region; all fields as they come.” */
export default function ArrangeEditor(props: StepEditorProps) {
  const arrange = checkedOf('arrange', props.checked);
  return arrange && <Arrange {...props} arrange={arrange} />;
}

export type ArrangeProps = StepEditorProps & { readonly arrange: CheckedOf<'arrange'> };

const ALL = 'all rows';
const FIRST = 'the first';
const ALIKE = 'rows that are alike too';
const ONE_PER = 'one row per';

function Arrange({ bench, checked, arrange }: ArrangeProps) {
  const { withoutValues } = bench;
  const { step, problems } = arrange;
  const { schema } = firstArriving(arrange);
  const own = new Set([...step.sort.map((each) => each.id), 'first', ...(step.fields ?? []).map((each) => each.field)]);
  const general = problems.filter(({ place }) => place.field === undefined || !own.has(place.field));
  const set = (property: 'first' | 'distinct' | 'fields') => (to: ArrangeStep[typeof property]) =>
    bench.edit({ kind: 'set step', step: step.id, property, from: step[property], to });
  return (
    <div className="space-y-3 px-3 py-2">
      <Sorting bench={bench} arrange={arrange} schema={schema} />
      <p className="flex flex-wrap items-center gap-1.5 border-t pt-2">
        Keep
        <ChoiceSlot
          label="Rows that are alike"
          value={step.distinct ? ONE_PER : ALIKE}
          choices={[ALIKE, ONE_PER]}
          disabled={withoutValues}
          onChange={(to) => set('distinct')(to === ONE_PER ? [] : null)}
        />
        {step.distinct && (
          <FieldList bench={bench} label="Rows are alike in" ids={step.distinct} schema={schema} onChange={set('distinct')} />
        )}
        {step.distinct && <span className="text-ink-soft">(the first of them by the order)</span>}
      </p>
      <FirstRowsLine bench={bench} arrange={arrange} schema={schema} onChange={set('first')} />
      <FieldsChosen bench={bench} arrange={arrange} schema={schema} onChange={set('fields')} />
      {general.map((problem, index) => (
        <div key={index} role={problem.severity === 'error' ? 'alert' : undefined}>
          <ProblemLine problem={problem} />
        </div>
      ))}
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}

type Part = Pick<ArrangeProps, 'bench' | 'arrange'> & { readonly schema: Schema };

function Sorting({ bench, arrange, schema }: Part) {
  const { edit, withoutValues } = bench;
  const { step, problems } = arrange;
  const language = languageOf(bench.trail.definition);
  const sortsText = step.sort.some(({ field }) => fieldById(schema, field)?.type.kind === 'text');
  return (
    <div>
      <p>Sorted by</p>
      <ol aria-label="Sorted by" className="border-t">
        {step.sort.map((key, at) => {
          const field = fieldById(schema, key.field);
          const found = problems.filter((each) => each.place.field === key.id);
          const change = (to: Partial<typeof key>) => edit(setItem(step, 'sort', key, { ...key, ...to }));
          return (
            <li key={key.id} className="flex flex-wrap items-center gap-1.5 border-b py-1">
              <span className="figures w-6 text-right text-ink-soft">{at + 1}</span>
              <FieldSlot
                label={`Sort field ${at + 1}`}
                schema={schema}
                field={field}
                missing={key.field !== '' && !field}
                disabled={withoutValues}
                onField={({ id }) => change({ field: id })}
              />
              <ChoiceSlot
                label={`Direction ${at + 1}`}
                value={key.descending ? 'descending' : 'ascending'}
                choices={['ascending', 'descending']}
                disabled={withoutValues}
                onChange={(to) => change({ descending: to === 'descending' })}
              />
              nulls
              <ChoiceSlot
                label={`Nulls ${at + 1}`}
                value={key.nullsFirst ? 'first' : 'last'}
                choices={['first', 'last']}
                disabled={withoutValues}
                onChange={(to) => change({ nullsFirst: to === 'first' })}
              />
              {!withoutValues && (
                <Remove label={`Do not sort by ${field?.name ?? 'it'}`} onClick={() => edit(removeItem(step, 'sort', key))} />
              )}
              <Problems found={found} />
            </li>
          );
        })}
        {!withoutValues && (
          <li className="flex items-center gap-1.5 border-b py-1">
            <span className="w-6" />
            <FieldSlot
              key={step.sort.length}
              label="Sort by"
              placeholder="one more field"
              schema={schema}
              field={undefined}
              missing={false}
              disabled={false}
              onField={({ id }) =>
                edit(addItem(step, 'sort', { id: mint(), field: id, descending: false, nullsFirst: false } as never, step.sort.length))
              }
            />
          </li>
        )}
      </ol>
      {sortsText && (
        <p className="mt-1 text-meta text-ink-soft">
          Texts are shown in the order of{' '}
          <ChoiceSlot
            label="Language of the order"
            value={languageWord(language)}
            choices={LANGUAGES.map(languageWord)}
            disabled={withoutValues}
            onChange={(word) => {
              const to = LANGUAGES.find((each) => languageWord(each) === word);
              edit({ kind: 'set dataset', property: 'language', from: bench.trail.definition.language, to: to === 'en' ? undefined : to });
            }}
          />
          ; which rows are the first is decided by code point.
        </p>
      )}
    </div>
  );
}

const names = new Intl.DisplayNames(['en'], { type: 'language' });
const languageWord = (language: Language) => names.of(language) ?? language;

function FirstRowsLine({ bench, arrange, schema, onChange }: Part & { readonly onChange: (to: ArrangeStep['first']) => void }) {
  const { withoutValues } = bench;
  const { step, problems } = arrange;
  const { first } = step;
  const { parameters } = bench.trail.definition;
  const found = problems.filter((each) => each.place.field === 'first');
  return (
    <div className="border-t pt-2">
      <p className="flex flex-wrap items-center gap-1.5">
        of those
        <ChoiceSlot
          label="How many rows"
          value={first ? FIRST : ALL}
          choices={[ALL, FIRST]}
          disabled={withoutValues}
          onChange={(to) => onChange(to === FIRST ? { count: { text: '10', refs: [] }, ties: false, per: [] } : null)}
        />
        {first && (
          <>
            <TextSlot
              label="How many are kept"
              value={first.count.text}
              placeholder="10, or :most"
              wrong={found.some(({ severity }) => severity === 'error')}
              disabled={withoutValues}
              onKeep={(text) => onChange({ ...first, count: linkReferences(text, { schema: { fields: [] }, parameters }) })}
            />
            of
            <FieldList
              bench={bench}
              label="First rows of each"
              ids={first.per}
              schema={schema}
              empty="all rows"
              lead="each"
              onChange={(per) => onChange({ ...first, per })}
            />
            ,
            <ChoiceSlot
              label="Ties"
              value={first.ties ? 'with ties' : 'without ties'}
              choices={['without ties', 'with ties']}
              disabled={withoutValues}
              onChange={(to) => onChange({ ...first, ties: to === 'with ties' })}
            />
          </>
        )}
      </p>
      <Problems found={found} />
    </div>
  );
}

interface FieldListProps {
  readonly bench: ArrangeProps['bench'];
  readonly label: string;
  readonly ids: readonly FieldId[];
  readonly schema: Schema;
  readonly empty?: string;
  readonly lead?: string;
  readonly onChange: (ids: readonly FieldId[]) => void;
}

/** Some fields in a sentence, each a slot, with room for one more. */
function FieldList({ bench, label, ids, schema, empty, lead, onChange }: FieldListProps) {
  const { withoutValues } = bench;
  const rest = { fields: schema.fields.filter((each) => !ids.includes(each.id)) };
  return (
    <span className="inline-flex flex-wrap items-center gap-1.5">
      {ids.length === 0 && empty}
      {ids.length > 0 && lead}
      {ids.map((id, at) => {
        const field: Field | undefined = fieldById(schema, id);
        return (
          <span key={id} className="inline-flex items-center">
            <FieldSlot
              label={`${label} ${at + 1}`}
              schema={schema}
              field={field}
              missing={!field}
              disabled={withoutValues}
              onField={(each) => onChange(ids.map((other) => (other === id ? each.id : other)))}
            />
            {!withoutValues && (
              <Remove label={`${label}: leave out ${field?.name ?? 'it'}`} onClick={() => onChange(ids.filter((each) => each !== id))} />
            )}
          </span>
        );
      })}
      {!withoutValues && (
        <FieldSlot
          key={ids.length}
          label={`${label}, one more`}
          placeholder={ids.length === 0 && empty !== undefined ? 'or of each …' : 'one more field'}
          schema={rest}
          field={undefined}
          missing={false}
          disabled={false}
          onField={(each) => onChange([...ids, each.id])}
        />
      )}
    </span>
  );
}

const Remove = ({ label, onClick }: { readonly label: string; readonly onClick: () => void }): ReactNode => (
  <button type="button" aria-label={label} onClick={onClick} className="p-1 text-ink-faint hover:text-ink">
    <X size={16} strokeWidth={1.75} aria-hidden />
  </button>
);

const Problems = ({ found }: { readonly found: readonly Problem[] }) =>
  found.map((problem, index) => (
    <span key={index} role="alert" className="basis-full pl-8">
      <ProblemLine problem={problem} />
    </span>
  ));
