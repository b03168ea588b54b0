import { ArrowDown, ArrowUp } from 'lucide-react';
import type { ArrangedField, ArrangeStep, Schema } from '@cendra/core';
import { fieldById, typeWord } from '@cendra/core';
import { RoleGlyph } from '../../ui/glyphs';
import { ProblemLine } from '../../ui/notice';
import { ChoiceSlot } from '../slots';
import type { ArrangeProps } from './arrange-editor';

interface FieldsChosenProps extends Pick<ArrangeProps, 'bench' | 'arrange'> {
  readonly schema: Schema;
  readonly onChange: (to: ArrangeStep['fields']) => void;
}

const ALL = 'all fields, as they come';
const SOME = 'these fields, in this order';
const USES = ['handed on', 'for use only', 'left out'] as const;
type Use = (typeof USES)[number];

/** Which fields go on, and in which order: one line each, moved by its buttons or Alt with an arrow. */
export function FieldsChosen({ bench, arrange, schema, onChange }: FieldsChosenProps) {
  const { withoutValues } = bench;
  const { step, problems } = arrange;
  const { fields } = step;
  const all = schema.fields.map(({ id, forUseOnly }): ArrangedField => ({ field: id, forUseOnly }));
  const left = fields ? all.filter((each) => !fields.some(({ field }) => field === each.field)) : [];
  const use = (each: ArrangedField, to: Use) => {
    if (!fields) return;
    const rest = fields.filter(({ field }) => field !== each.field);
    if (to === 'left out') return onChange(rest);
    const now = { field: each.field, forUseOnly: to === 'for use only' };
    onChange(fields.includes(each) ? fields.map((other) => (other === each ? now : other)) : [...fields, now]);
  };
  const move = (at: number, to: number) => {
    const item = fields?.[at];
    if (fields && item && to >= 0 && to < fields.length) onChange(fields.toSpliced(at, 1).toSpliced(to, 0, item));
  };
  return (
    <div className="border-t pt-2">
      <p className="flex flex-wrap items-center gap-1.5">
        and hand on
        <ChoiceSlot
          label="Fields that go on"
          value={fields ? SOME : ALL}
          choices={[ALL, SOME]}
          disabled={withoutValues}
          onChange={(to) => onChange(to === SOME ? all : null)}
        />
      </p>
      {fields && (
        <ol aria-label="Fields that go on" className="mt-1 border-t">
          {[...fields, ...left].map((each, at) => {
            const field = fieldById(schema, each.field);
            const name = field?.name ?? 'a field that is gone';
            const listed = at < fields.length;
            const found = problems.filter(({ place }) => place.field === each.field);
            return (
              <li
                key={each.field}
                className={`flex flex-wrap items-center gap-2 border-b py-0.5 ${listed ? '' : 'text-ink-faint'}`}
                onKeyDown={(event) => {
                  if (!event.altKey || !listed || withoutValues) return;
                  if (event.key === 'ArrowUp') move(at, at - 1);
                  if (event.key === 'ArrowDown') move(at, at + 1);
                }}
              >
                <span className="figures w-6 text-right text-ink-soft">{listed ? at + 1 : ''}</span>
                {field && <RoleGlyph role={field.role} />}
                <span className="min-w-40">{name}</span>
                <span className="w-28 text-meta text-ink-soft">{field && typeWord(field.type)}</span>
                <ChoiceSlot
                  label={`${name} is`}
                  value={listed ? (each.forUseOnly ? 'for use only' : 'handed on') : 'left out'}
                  choices={USES}
                  disabled={withoutValues}
                  onChange={(to) => use(each, to)}
                />
                {listed && !withoutValues && (
                  <span className="ml-auto">
                    <Move label={`Move ${name} up`} icon={ArrowUp} onClick={() => move(at, at - 1)} />
                    <Move label={`Move ${name} down`} icon={ArrowDown} onClick={() => move(at, at + 1)} />
                  </span>
                )}
                {found.map((problem, index) => (
                  <span key={index} role="alert" className="basis-full pl-8">
                    <ProblemLine problem={problem} />
                  </span>
                ))}
              </li>
            );
          })}
        </ol>
      )}
    </div>
  );
}

const Move = ({ label, icon: Icon, onClick }: { readonly label: string; readonly icon: typeof ArrowUp; readonly onClick: () => void }) => (
  <button type="button" aria-label={label} onClick={onClick} className="p-1 text-ink-faint hover:text-ink">
    <Icon size={14} strokeWidth={1.75} aria-hidden />
  </button>
);
