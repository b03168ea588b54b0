import type { AddsUp, Aggregate, Edit, Format, Role, SheetField, SheetProperty } from '@cendra/core';
import { ADDS_UP, aggregatesOf, isDay, isNumber, safeName, typeWord } from '@cendra/core';
import { ChoiceSlot, TextSlot } from '../bench/slots';
import type { Bench } from '../bench/use-bench';
import { Button } from '../ui/button';
import { RoleGlyph } from '../ui/glyphs';
import { LongText } from '../ui/long-text';
import { ProblemLine } from '../ui/notice';
import { Tick } from '../ui/tick';
import { WORDS } from '../ui/words';
import { clean, FormatLines } from './format-lines';
import { LineageLines } from './lineage-lines';
import { LinkLine } from './link-line';
import { useOwnValue } from './own-value';
import { SeveralFields } from './several-fields';

const ROLES: readonly Role[] = ['key', 'measure', 'attribute', 'date', 'code'];

interface FieldCardProps {
  readonly bench: Bench;
  readonly field: SheetField;
  readonly fields: readonly SheetField[];
}

/** All that is said of one field, as sentences whose variable parts are slots. */
export function FieldCard({ bench, field, fields }: FieldCardProps) {
  const { trail, edit, withoutValues: locked } = bench;
  const entry = trail.definition.sheet.find((each) => each.field === field.id);
  const change = (property: SheetProperty, to: unknown): Edit => ({
    kind: 'set sheet',
    field: field.id,
    property,
    from: entry?.[property],
    to,
  });
  const say = (property: SheetProperty, to: unknown) => edit(change(property, to));
  const own = useOwnValue(bench.id, field.id);
  const problems = trail.problems.filter((each) => each.place.step === undefined && each.place.field === field.id);
  const unfit = problems.some((each) => each.code.startsWith('name-'));
  const others = fields.filter((each) => each.id !== field.id && !each.forUseOnly).map((each) => each.name);
  const common = { disabled: locked };
  return (
    <div className="space-y-3">
      <h2 className="flex items-center gap-2 text-section font-medium">
        <RoleGlyph role={field.role} />
        <span className="truncate">{field.label}</span>
        <span className="ml-auto text-base font-normal text-ink-soft">{typeWord(field.type)}</span>
      </h2>
      <p className="leading-7">
        <span title={WORDS['handed over']}>Handed over as</span>{' '}
        <TextSlot
          {...common}
          label="Name"
          look="font-mono"
          wrong={unfit}
          value={field.name}
          placeholder={field.field.name}
          onKeep={(to) => say('name', plain(to, field.field.name))}
        />
        , read as{' '}
        <TextSlot {...common} label="Label" value={field.label} placeholder="label" onKeep={(to) => say('label', plain(to, ''))} />.
      </p>
      {problems.map((problem, index) => (
        <ProblemLine key={index} problem={problem} />
      ))}
      {unfit && !locked && (
        <Button small onClick={() => say('name', safeName(field.name, others))}>
          Hand it over as {safeName(field.name, others)}
        </Button>
      )}
      <RoleSentence field={field} fields={fields} locked={locked} say={say} change={change} edit={edit} />
      {field.role === 'measure' && <TotalTicks field={field} locked={locked} say={say} />}
      {hasFormat(field) && (
        <FormatLines field={field} own={own} locked={locked} say={say}>
          {!locked && (
            <SeveralFields
              says="Write others so …"
              does={(count) => `Write ${plural(count)} so`}
              fields={fields.filter((each) => each.id !== field.id && !each.forUseOnly && writtenAlike(each, field))}
              most={Infinity}
              onKeep={(others) => edit(...others.map((each) => formatEdit(trail, each.id, field.format)))}
            />
          )}
        </FormatLines>
      )}
      {!field.forUseOnly && <LinkLine field={field} fields={fields} locked={locked} say={say} />}
      <LongText
        label="Description of the field"
        value={field.description}
        placeholder="What a value of this field is"
        rows={2}
        most={2_000}
        disabled={locked}
        onKeep={(to) => say('description', plain(to, ''))}
      />
      {!field.field.forUseOnly && (
        <label className="flex items-center gap-2">
          <Tick checked={field.forUseOnly} label="For use only" disabled={locked} onChange={(to) => say('forUseOnly', to || undefined)} />
          For use only: steps and the proof’s conditions may use it, and it is not handed over.
        </label>
      )}
      <LineageLines bench={bench} field={field} />
    </div>
  );
}

const plural = (count: number) => `${count} ${count === 1 ? 'field' : 'fields'}`;

const hasFormat = ({ type }: SheetField) => isNumber(type) || isDay(type) || type.kind === 'time';

/** Whether a pattern of one says something of the other. */
const writtenAlike = (a: SheetField, b: SheetField) => (isNumber(b.type) ? isNumber(a.type) : a.type.kind === b.type.kind);

const formatEdit = ({ definition }: Bench['trail'], field: string, to: Format | undefined): Edit => ({
  kind: 'set sheet',
  field,
  property: 'format',
  from: definition.sheet.find((each) => each.field === field)?.format,
  to: to && clean(to),
});

/** What is said, or nothing where it only repeats what would be there anyway. */
const plain = (text: string, usual: string) => (text.trim() === '' || text.trim() === usual ? undefined : text.trim());

interface SayProps {
  readonly field: SheetField;
  readonly locked: boolean;
  readonly say: (property: SheetProperty, to: unknown) => void;
}

interface RoleSentenceProps extends SayProps {
  readonly fields: readonly SheetField[];
  readonly change: (property: SheetProperty, to: unknown) => Edit;
  readonly edit: (...edits: Edit[]) => void;
}

function RoleSentence({ field, fields, locked, say, change, edit }: RoleSentenceProps) {
  const dates = fields.filter((each) => !each.forUseOnly && isDay(each.type) && each.id !== field.id);
  const last = dates.find((each) => each.id === field.lastBy);
  const sums = field.role === 'measure' && isNumber(field.type);
  const addsUp = (to: AddsUp) => {
    const first = to === 'over everything but dates, then last' && !last ? dates[0] : undefined;
    // What the making of a field says is overruled by a word.
    const unsaid = to === 'over everything' && field.field.addsUp === undefined && field.field.oncePer === undefined;
    edit(change('addsUp', unsaid ? undefined : to), ...(first ? [change('lastBy', first.id)] : []));
  };
  return (
    <p className="leading-7">
      It is a{field.role === 'attribute' ? 'n' : ''}{' '}
      <ChoiceSlot
        label="Role"
        value={field.role}
        choices={ROLES}
        disabled={locked}
        onChange={(to) => say('role', to === field.field.role ? undefined : to)}
      />
      {sums && (
        <>
          {' '}
          that adds up <ChoiceSlot label="Adds up" value={field.addsUp} choices={ADDS_UP} disabled={locked} onChange={addsUp} />
          {field.addsUp === 'over everything but dates, then last' && (
            <>
              , the last by{' '}
              <ChoiceSlot
                label="Date that says which is last"
                value={last?.name ?? ''}
                choices={dates.map((each) => each.name)}
                wrong={!last}
                disabled={locked}
                onChange={(name) => say('lastBy', dates.find((each) => each.name === name)?.id)}
              />
            </>
          )}
        </>
      )}
      .
    </p>
  );
}

function TotalTicks({ field, locked, say }: SayProps) {
  const possible = aggregatesOf(field.type, field.role, field.addsUp);
  const set = (aggregate: Aggregate, on: boolean) => {
    const to = possible.filter((each) => (each === aggregate ? on : field.aggregates.includes(each)));
    say('aggregates', to.length === possible.length ? undefined : to);
  };
  return (
    <fieldset className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <legend className="sr-only">Totals that are allowed</legend>
      <span className="text-ink-soft">May be totalled by</span>
      {possible.map((each) => (
        <label key={each} className="flex items-center gap-1">
          <Tick checked={field.aggregates.includes(each)} label={each} disabled={locked} onChange={(on) => set(each, on)} />
          {each}
        </label>
      ))}
    </fieldset>
  );
}
