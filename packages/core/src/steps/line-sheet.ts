import { z } from 'zod';
import { mentionsIn } from '../criteria';
import { idShape } from '../ids';
import type { Expression, ExpressionText } from '../expressions';
import {
  blanksAsNull,
  compare,
  disjunction,
  expressionIds,
  fieldOfText,
  linkReferences,
  renameReference,
  wholeLiteral,
  yes,
} from '../expressions';
import type { Field } from '../fields';
import { whole } from '../fields';
import type { Parameter } from '../parameters';
import type { Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { FollowedThrough, ItemChange, ItemList, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import type { CheckedLineSheet } from './line-sheet-check';
import { checkLineSheet } from './line-sheet-check';
import { lineSheetRelation, lineSheetRows, rowsOfLine, sheetFields } from './line-sheet-relation';
import type { LineFigure, SheetAmount, SheetLine } from './sheet-line';
import { figureWords, lineNames, sheetAmountShape, sheetLineShape } from './sheet-line';
import type { StepBase } from './step';
import { stepBase } from './step';
import { summaryFailures } from './summary-relation';
import type { Questioning } from './wanted-rows';

/** A field the sheet gives besides its figures. */
interface Named {
  readonly id: string;
  readonly name: string;
}

/** Lines in a fixed order, each with its wording and figures of its own: one row per line. */
export interface LineSheetStep extends StepBase {
  readonly kind: 'line sheet';
  /** The fields that say which line a row is, and what is to be said of its figures. */
  readonly names: { readonly [K in 'line' | 'place' | 'wording' | 'level' | 'kind' | 'note']: Named };
  readonly amounts: readonly SheetAmount[];
  readonly lines: readonly SheetLine[];
  /** What a figure is of which no row has a value. */
  readonly empty: 'blank' | '0';
  /** Whether each amount also stands as text, in the pattern of its line. */
  readonly texts: boolean;
}

const named = z.strictObject({ id: idShape, name: z.string().max(200) });

const shape: z.ZodType<LineSheetStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('line sheet'),
  names: z.strictObject({ line: named, place: named, wording: named, level: named, kind: named, note: named }),
  amounts: z.array(sheetAmountShape).max(50),
  lines: z.array(sheetLineShape).max(400),
  empty: z.enum(['blank', '0']),
  texts: z.boolean(),
});

const worded = ({ wording, place, kind }: SheetLine) => wording || place || (kind === 'blank' ? 'a blank line' : 'a line');

const lines: ItemList<SheetLine> = {
  shape: sheetLineShape,
  sentence: (change: ItemChange) => {
    if (change.did !== 'changed') return `${change.did} the line ${worded(change.item as SheetLine)}`;
    const [from, to] = [change.from as SheetLine, change.to as SheetLine];
    if (from.wording !== to.wording) return `called the line ${from.wording || '…'} ${to.wording || '…'}`;
    const [before, after] = [figureWords(from.figure, () => '…'), figureWords(to.figure, () => '…')];
    return before === after ? `changed the line ${worded(to)}` : `made ${worded(to)} ${after}`;
  },
};

const amounts: ItemList<SheetAmount> = {
  shape: sheetAmountShape,
  sentence: (change: ItemChange) => {
    if (change.did === 'changed') return `changed which figures stand in ${(change.to as SheetAmount).name || '…'}`;
    return change.did === 'added'
      ? `added the figures ${(change.item as SheetAmount).name || '…'}`
      : `left out the figures ${(change.item as SheetAmount).name || '…'}`;
  },
};

const textsOfFigure = (figure: LineFigure): readonly ExpressionText[] =>
  figure.from === 'rows' ? [figure.expression, figure.among] : figure.from === 'lines' ? [figure.expression] : [];
const textsOfAmount = ({ of }: SheetAmount): readonly ExpressionText[] =>
  of.from === 'rows' ? of.among : of.from === 'amounts' ? [of.expression] : [];
const textsOf = (step: LineSheetStep): readonly ExpressionText[] =>
  [...step.lines.flatMap(({ figure }) => textsOfFigure(figure)), ...step.amounts.flatMap(textsOfAmount)].filter(({ text }) => text !== '');

const figureWith = (figure: LineFigure, change: (text: ExpressionText) => ExpressionText): LineFigure =>
  figure.from === 'rows'
    ? { ...figure, expression: change(figure.expression), among: change(figure.among) }
    : figure.from === 'lines'
      ? { ...figure, expression: change(figure.expression) }
      : figure;

const withTexts = (step: LineSheetStep, change: (text: ExpressionText) => ExpressionText): LineSheetStep => ({
  ...step,
  lines: step.lines.map((each) => ({ ...each, figure: figureWith(each.figure, change) })),
  amounts: step.amounts.map((each) => {
    const { of } = each;
    if (of.from === 'rows') return { ...each, of: { ...of, among: of.among.map(change) } };
    return of.from === 'amounts' ? { ...each, of: { ...of, expression: change(of.expression) } } : each;
  }),
});

/** Lines and amounts are named in the sheet's own expressions, and are no fields of what arrives. */
const usesOf = (step: LineSheetStep, parameters: readonly Parameter[]) => {
  const own = new Set([...step.lines, ...step.amounts].map((each) => each.id));
  return textsOf(step).flatMap((text) => [
    ...text.refs.filter(({ kind, id }) => kind === 'parameter' || !own.has(id)),
    ...linkReferences(text.text, { schema: { fields: [] }, parameters }).refs,
  ]);
};

export const lineSheetKind: StepKind<LineSheetStep, CheckedLineSheet> = {
  kind: 'line sheet',
  inputs: { least: 1, most: 10, role: () => 'rows' },
  shape,
  properties: {
    empty: ({ to, title }) =>
      to === '0' ? `showed 0 in ${title} where no row has a value` : `left blank in ${title} what no row has a value for`,
    texts: ({ to, title }) =>
      to === true ? `gave the figures of ${title} also as they are shown` : `gave the figures of ${title} as numbers only`,
    lines: ({ title }) => `changed the order of the lines of ${title}`,
    amounts: ({ title }) => `changed the order of the figures of ${title}`,
  },
  lists: { lines, amounts },
  mints: (step) => [
    ...Object.values(step.names).map((each) => each.id),
    ...step.amounts.flatMap(({ id, text }) => (step.texts ? [id, text] : [id])),
  ],
  sources: () => [],
  carries: () => undefined,
  origin: (step, id) => {
    const amount = step.amounts.find((each) => each.id === id || each.text === id);
    if (!amount) return Object.values(step.names).some((each) => each.id === id) ? { fields: [], how: 'said of each line' } : undefined;
    const fields = textsOf(step).flatMap(({ refs }) => refs.flatMap((each) => (each.kind === 'field' ? [each.id] : [])));
    return { fields: [...new Set(fields)], how: 'told line by line' };
  },
  check: (step, arriving, context) => {
    const { checked, problems } = checkLineSheet(step, arriving, context);
    return {
      schema: {
        fields: sheetFields({ step, checked }).map((each): Field => ({
          ...each,
          ...meaningOf(step, each.id),
          origin: { step: step.id, column: each.name },
          forUseOnly: false,
        })),
      },
      grain: { row: 'line', rows: 'lines', keys: [[step.names.line.id]] },
      problems,
      checked,
    };
  },
  sentence: (step) => {
    const told = step.lines.filter(({ figure }) => figure.from !== 'nothing').length;
    return step.lines.length === 0 ? 'a line sheet without lines' : `${step.lines.length} lines, ${told} of them with figures`;
  },
  mentions: ({ step, checked }, parameters) => {
    const found = [
      ...checked.lines.flatMap(({ told, calculated }) => [told?.of, told?.among, calculated]),
      ...checked.amounts.flatMap(({ among, calculated }) => [...among, calculated]),
    ].flatMap((each) => each ?? []);
    return mentionsIn(usesOf(step, parameters), found.length > 0 ? disjunctionOf(found) : undefined, parameters);
  },
  unasked: () => undefined,
  order: (step) => [{ field: step.names.line.id, descending: false, nullsFirst: false }],
  relation: lineSheetRelation,
  rows: lineSheetRows,
  counted: {
    by: 'a statement of its own',
    failures: ({ checked }, binding) =>
      checked.lines.flatMap(({ line, told, slot = 0 }) =>
        told ? summaryFailures({ checked: { keys: [], values: [told] } }, binding).map((each) => ({ ...each, slot, field: line.id })) : [],
      ),
  },
  followed,
  written: textsOf,
  uses: usesOf,
  renamed: (step, kind, id, name) => withTexts(step, (text) => renameReference(text, kind, id, name)),
  fieldName: (step, id) => [...Object.values(step.names), ...step.amounts].find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => ({
    ...step,
    names: Object.fromEntries(
      Object.entries(step.names).map(([key, each]) => [key, each.id === id ? { ...each, name } : each]),
    ) as LineSheetStep['names'],
    // Other amounts are made of it by its name.
    amounts: step.amounts.map((each) => {
      const own = each.id === id ? { ...each, name } : each;
      const { of } = own;
      return of.from === 'amounts' ? { ...own, of: { ...of, expression: renameReference(of.expression, 'field', id, name) } } : own;
    }),
  }),
  withIds: (step, idOf) => {
    const or = (id: string) => (id === '' ? '' : idOf(id));
    const own = withTexts(step, (text) => expressionIds(text, idOf));
    return {
      ...own,
      id: idOf(step.id),
      inputs: step.inputs.map((each) => each && idOf(each)),
      names: Object.fromEntries(
        Object.entries(own.names).map(([key, each]) => [key, { ...each, id: idOf(each.id) }]),
      ) as LineSheetStep['names'],
      amounts: own.amounts.map((each) => ({
        ...each,
        id: idOf(each.id),
        text: idOf(each.text),
        of: each.of.from === 'share' ? { ...each.of, amount: or(each.of.amount), line: or(each.of.line) } : each.of,
      })),
      lines: own.lines.map((each) => ({
        ...each,
        id: idOf(each.id),
        figure: each.figure.from === 'range' ? { ...each.figure, since: or(each.figure.since), until: or(each.figure.until) } : each.figure,
      })),
    };
  },
  withoutValues: (step) => ({
    ...withTexts(step, (text) => (fieldOfText(text) === undefined ? { text: '', refs: [] } : text)),
    name: '',
    lines: step.lines.map((each) => ({ ...each, wording: '', figure: figureWith(each.figure, () => ({ text: '', refs: [] })) })),
  }),
};

/** What a field of the sheet says: lines are told apart by their number, places are codes, figures add up over nothing. */
function meaningOf({ names }: LineSheetStep, id: string): Pick<Field, 'role' | 'addsUp'> {
  if (id === names.line.id) return { role: 'key' };
  if (id === names.place.id || id === names.level.id) return { role: 'code' };
  const texts = [names.wording, names.kind, names.note].some((each) => each.id === id);
  return texts ? { role: 'attribute' } : { role: 'measure', addsUp: 'over nothing' };
}

/** Everything asked in one, for who looks at which parameters meet what. */
const disjunctionOf = (found: readonly Expression[]): Expression => ({ op: 'or', type: { kind: 'yesno' }, items: found });

/** A line sheet with one field of figures and one line, which counts the rows. */
export function lineSheetStep(mint: () => string, input: string): LineSheetStep {
  const item = (name: string) => ({ id: mint(), name });
  return {
    id: mint(),
    kind: 'line sheet',
    name: '',
    off: false,
    inputs: [input],
    names: {
      line: item('line'),
      place: item('place'),
      wording: item('wording'),
      level: item('level'),
      kind: item('kind'),
      note: item('note'),
    },
    amounts: [{ ...item('amount'), text: mint(), format: '', of: { from: 'rows', among: [] } }],
    lines: [],
    empty: 'blank',
    texts: false,
  };
}

const NOTHING: ExpressionText = { text: '', refs: [] };
const PLACES = 10;

/** A line behind all others, at the next place of ten. */
export function nextLine(mint: () => string, { lines: known }: LineSheetStep, of: Partial<SheetLine> = {}): SheetLine {
  const places = known.flatMap(({ place }) => (/^\d+$/.test(place) ? [Number(place)] : []));
  const next = Math.floor(Math.max(0, ...places) / PLACES) * PLACES + PLACES;
  return {
    id: mint(),
    place: String(next),
    wording: '',
    level: 0,
    kind: 'line',
    figure: { from: 'rows', slot: 0, aggregate: 'rows', expression: NOTHING, among: NOTHING },
    format: '',
    ...of,
  };
}

/** The lines after one is worded anew: what is calculated of it names it so. */
export function reworded(step: LineSheetStep, line: string, to: Partial<Pick<SheetLine, 'wording' | 'place'>>): readonly SheetLine[] {
  const changed = step.lines.map((each) => (each.id === line ? { ...each, ...to } : each));
  const [before, after] = [lineNames(step.lines), lineNames(changed)];
  const renamed = [...after].filter(([id, name]) => before.get(id) !== name);
  return changed.map((each) => ({
    ...each,
    figure:
      each.figure.from === 'lines'
        ? figureWith(each.figure, (text) => renamed.reduce((done, [id, name]) => renameReference(done, 'field', id, name), text))
        : each.figure,
  }));
}

/** In which lines followed rows are counted. */
function* followed(through: Through<LineSheetStep, CheckedLineSheet>): Questioning<FollowedThrough> {
  const { checked, inputs, relation, known, binding, slot } = through;
  const input = inputs[slot];
  if (!input) throw new RangeError('rows arrive in a slot there is');
  const told = checked.checked.lines.flatMap((each, at) => (each.told && each.slot === slot ? [{ each, at }] : []));
  const counts: Relation = {
    node: 'group',
    input: { node: 'filter', input, condition: known },
    keys: [],
    counts: told.map(({ each }) => {
      const among = rowsOfLine(checked, each);
      return { id: each.line.id, when: among ? blanksAsNull(among, binding.blanks) : yes };
    }),
  };
  const [row = []] = told.length === 0 ? [] : yield { relation: counts, columns: columnsOf(counts) };
  const numbers = told.flatMap(({ at }, index) => (Number(row[index] ?? '0') > 0 ? [at + 1] : []));
  const number = valueOf({ id: checked.step.names.line.id, type: whole });
  const now = disjunction(numbers.map((each) => compare('=', number, wholeLiteral(each))));
  if (numbers.length === 0) return { present: 0, dropped: [], values: [] };
  const { line, place, wording } = checked.step.names;
  const shown = columnsOf(relation).filter(
    ({ id }) => [line, place, wording].some((each) => each.id === id) || checked.step.amounts.some((each) => each.id === id),
  );
  const rows = yield {
    relation: { node: 'filter', input: relation, condition: now } satisfies Relation,
    columns: shown,
    limit: ROWS_FOLLOWED,
  };
  const values = rows.map((each) => shown.map(({ name }, index) => ({ name, value: each[index] ?? null })));
  return { present: numbers.length, dropped: [], values, known: now };
}
