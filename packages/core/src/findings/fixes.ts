import { linkReferences } from '../expressions';
import type { Level } from '../grouping';
import type { Problem } from '../problem';
import { safeName } from '../sheet';
import type { SheetEntry } from '../sheet';
import type { Catalogue, TableStep } from '../steps';
import { checkedOf, ofKind } from '../steps';
import type { CheckedTrail, Definition, Edit } from '../trail';
import { checkedStep, equal, removeParameter, reportFields, setItem } from '../trail';

/** A way to mend a finding: what it does, said as on a button, and the edits that do it. */
export interface Fix {
  readonly says: string;
  readonly edits: readonly Edit[];
}

type Fixing = (found: Problem, trail: CheckedTrail, catalogue: Catalogue) => readonly Fix[];

/** Ways to mend findings by their code. Others are mended by hand, at the place they name. */
const FIXES: Readonly<Record<string, Fixing>> = {
  'name-unsafe': renaming,
  'name-reserved': renaming,
  'name-twice': renaming,
  'format-unsuited': (found, { definition }) => unsaid(definition, found, 'format', 'Write it as usual'),
  'last-by-missing': lastDates,
  'proof-field-gone': (found, { definition }) => withoutField(definition, found),
  'total-unsuited': withoutTotals,
  'sum-repeats': repeatedTotals,
  'parameter-unused': (found, { definition }) => {
    const parameter = definition.parameters.find((each) => each.id === found.place.parameter);
    return parameter ? [{ says: `Remove :${parameter.name}`, edits: [removeParameter(definition, parameter)] }] : [];
  },
  'levels-nested': ({ place }, { definition: { proof } }) => [
    ...exchangedLevels(place.field, 'levels', proof.levels, (levels) => levels),
    ...exchangedLevels(place.field, 'across', proof.across?.levels ?? [], (levels) => ({ ...proof.across, levels })),
  ],
  'column-gone': (found, { definition }) => {
    const step = tableStep(definition, found);
    const to = step?.taken.filter((each) => each !== found.place.field);
    return step && to && to.length < step.taken.length
      ? [{ says: 'Leave the field out', edits: [{ kind: 'set step', step: step.id, property: 'taken', from: step.taken, to }] }]
      : [];
  },
  'column-retyped': (found, { definition }, catalogue) => {
    const step = tableStep(definition, found);
    const known = step && catalogue({ kind: 'table', source: step.source, schema: step.schema, table: step.table });
    if (!step || !known || known === 'gone') return [];
    const to = step.fields.map((field) => {
      const now = known.columns.find((each) => each.name === field.column);
      return field.id === found.place.field && now ? { ...field, sourceType: now.sourceType, type: now.type } : field;
    });
    return [{ says: 'Take the new type over', edits: [{ kind: 'set step', step: step.id, property: 'fields', from: step.fields, to }] }];
  },
};

export function fixesOf(found: Problem, trail: CheckedTrail, catalogue: Catalogue): readonly Fix[] {
  return [...(FIXES[found.code]?.(found, trail, catalogue) ?? []), ...instead(found, trail)];
}

/** The level of a field below the one it stands above. */
function exchangedLevels(
  field: string | undefined,
  property: 'levels' | 'across',
  levels: readonly Level[],
  written: (levels: readonly Level[]) => unknown,
): readonly Fix[] {
  const at = levels.findIndex((each) => each.field === field);
  const [own, next] = levels.slice(at, at + 2);
  if (at < 0 || !own || !next) return [];
  const to = levels.toSpliced(at, 2, next, own);
  return [{ says: 'Exchange the two levels', edits: [{ kind: 'set proof', property, from: written(levels), to: written(to) } as Edit] }];
}

/** What the check would have written at the place. */
function instead(found: Problem, trail: CheckedTrail): readonly Fix[] {
  const { position, field: id, step } = found.place;
  const calculation = step === undefined ? undefined : checkedOf('calculate', checkedStep(trail, step));
  const checked = calculation?.checked.find((each) => each.field.id === id);
  if (found.instead === undefined || !position || !calculation || !checked) return [];
  const { field, scope } = checked;
  const text = field.expression.text.slice(0, position.from) + found.instead + field.expression.text.slice(position.to);
  const to = { ...field, expression: linkReferences(text, { ...scope, parameters: trail.definition.parameters }) };
  return [{ says: `Write ${found.instead}`, edits: [setItem(calculation.step, 'fields', field, to)] }];
}

const tableStep = (definition: Definition, { place }: Problem): TableStep | undefined =>
  ofKind(
    'table',
    definition.steps.find((each) => each.id === place.step),
  );

function renaming(found: Problem, trail: CheckedTrail): readonly Fix[] {
  const fields = reportFields(trail);
  const field = fields.find((each) => each.id === found.place.field);
  if (!field) return [];
  const taken = fields.filter((each) => each.id !== field.id && !each.forUseOnly).map((each) => each.name);
  const to = safeName(field.name, taken);
  const entry: SheetEntry | undefined = trail.definition.sheet.find((each) => each.field === field.id);
  return [{ says: `Hand it over as ${to}`, edits: [{ kind: 'set sheet', field: field.id, property: 'name', from: entry?.name, to }] }];
}

function unsaid(definition: Definition, { place }: Problem, property: 'format', says: string): readonly Fix[] {
  const entry = definition.sheet.find((each) => each.field === place.field);
  return entry ? [{ says, edits: [{ kind: 'set sheet', field: entry.field, property, from: entry[property] }] }] : [];
}

function lastDates(found: Problem, trail: CheckedTrail): readonly Fix[] {
  const entry = trail.definition.sheet.find((each) => each.field === found.place.field);
  const dates = reportFields(trail).filter((each) => !each.forUseOnly && each.role === 'date');
  return dates.slice(0, 3).map(({ id, name }) => ({
    says: `The last by ${name}`,
    edits: [{ kind: 'set sheet', field: found.place.field ?? '', property: 'lastBy', from: entry?.lastBy, to: id }],
  }));
}

/** The proof without what it does with a field. */
function withoutField({ proof }: Definition, { place }: Problem): readonly Fix[] {
  const other = (each: { readonly field: string }) => each.field !== place.field;
  const edits: Edit[] = [];
  const gone = (id: string | undefined) => id === place.field;
  const without = (levels: readonly Level[]): readonly Level[] =>
    levels.filter(other).map(({ shown, heads, ...level }) => {
      const left = heads?.filter((each) => !gone(each)) ?? [];
      return { ...level, ...(shown === undefined || gone(shown) ? {} : { shown }), ...(left.length > 0 ? { heads: left } : {}) };
    });
  const levels = without(proof.levels);
  if (!equal(levels, proof.levels)) edits.push({ kind: 'set proof', property: 'levels', from: proof.levels, to: levels });
  const { across } = proof;
  const beside = across && without(across.levels);
  if (across && beside && !equal(beside, across.levels)) {
    const to = beside.length > 0 ? { ...across, levels: beside } : undefined;
    edits.push({ kind: 'set proof', property: 'across', from: across, to });
  }
  if (proof.chart && !other(proof.chart)) edits.push({ kind: 'set proof', property: 'chart', from: proof.chart, to: undefined });
  if (!proof.marks.every(other)) edits.push({ kind: 'set proof', property: 'marks', from: proof.marks, to: proof.marks.filter(other) });
  if (proof.totals && !proof.totals.every(other))
    edits.push({ kind: 'set proof', property: 'totals', from: proof.totals, to: proof.totals.filter(other) });
  return edits.length > 0 ? [{ says: OUT_OF_PROOF, edits }] : [];
}

/** The proof without the totals of a field that its role does not allow; those it allows stay. */
function withoutTotals({ place }: Problem, trail: CheckedTrail): readonly Fix[] {
  const { totals } = trail.definition.proof;
  const allowed = reportFields(trail).find((each) => each.id === place.field)?.aggregates ?? [];
  const to = totals?.filter(({ field, aggregate }) => field !== place.field || allowed.includes(aggregate));
  return to && to.length < (totals?.length ?? 0)
    ? [{ says: OUT_OF_PROOF, edits: [{ kind: 'set proof', property: 'totals', from: totals, to }] }]
    : [];
}

/** The proof without sums of a field that may stand in several rows, or a word that it adds up all the same. */
function repeatedTotals({ place }: Problem, { definition }: CheckedTrail): readonly Fix[] {
  const { totals } = definition.proof;
  const to = totals?.filter(({ field, aggregate }) => field !== place.field || aggregate !== 'sum');
  if (place.step !== undefined || place.field === undefined || !to || to.length === totals?.length) return [];
  const entry = definition.sheet.find((each) => each.field === place.field);
  return [
    { says: OUT_OF_PROOF, edits: [{ kind: 'set proof', property: 'totals', from: totals, to }] },
    {
      says: 'It adds up over everything',
      edits: [{ kind: 'set sheet', field: place.field, property: 'addsUp', from: entry?.addsUp, to: 'over everything' }],
    },
  ];
}

const OUT_OF_PROOF = 'Take it out of the proof';
