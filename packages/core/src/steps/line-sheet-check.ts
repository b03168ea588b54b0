import type { AbsentField, Expression, ExpressionText } from '../expressions';
import { arithmetic, checkCondition, checkExpression, commonType, isNull, linkReferences, widen, wholeLiteral } from '../expressions';
import type { Field, FieldType } from '../fields';
import { decimal, isNumber, typeWord, whole } from '../fields';
import type { Problem } from '../problem';
import { problem, warning, withPlace } from '../problem';
import type { CheckedValue } from './figures';
import type { LineSheetStep } from './line-sheet';
import type { SheetAmount, SheetLine } from './sheet-line';
import { amongOf, lineNames } from './sheet-line';
import type { Arriving, CheckContext } from './step';
import { NOTHING_ARRIVES } from './step';
import { checkSummary } from './summary';

/** A line understood. Its figure is told of rows, or calculated of other lines, which stand in it as fields by their ids. */
export interface CheckedLine {
  readonly line: SheetLine;
  readonly slot?: number;
  readonly told?: CheckedValue & { readonly type: FieldType };
  readonly calculated?: Expression;
}

/** An amount understood. One made of others has them in it as fields by their ids. */
export interface CheckedAmount {
  readonly amount: SheetAmount;
  /** By slot; left out for all rows. */
  readonly among: readonly (Expression | undefined)[];
  readonly calculated?: Expression;
  readonly type: FieldType;
  /** Its figures as text, by the pattern of a line: an expression of the amount's field. */
  readonly shown: ReadonlyMap<string, Expression>;
}

export interface CheckedLineSheet {
  /** In their order on the sheet. */
  readonly lines: readonly CheckedLine[];
  /** Lines in the order they can be calculated in. */
  readonly order: readonly CheckedLine[];
  readonly amounts: readonly CheckedAmount[];
  /** The type all figures have in common. */
  readonly type: FieldType;
}

type Context = Pick<CheckContext, 'parameters' | 'calendar' | 'budget' | 'sheet'>;

const ONE_ROW = 'A line is told of all its rows at once, and this is computed over other rows.';

/** Lines and amounts as typed expressions, and what is wrong with them. */
export function checkLineSheet(step: LineSheetStep, arriving: readonly Arriving[], context: Context) {
  const problems: Problem[] = [];
  const at = (item: string, found: readonly Problem[]) =>
    problems.push(...found.map((each) => withPlace(each, { step: step.id, field: item })));
  problems.push(...placeProblems(step));
  const { checked, order } = new Lines(step, arriving, context, at).all();
  const types = order.flatMap((each) => figureType(each) ?? []);
  const common = types.reduce<FieldType | undefined>((wide, each) => (wide ? commonType(wide, each) : each), undefined) ?? whole;
  const type = narrowed(common);
  const amounts = checkAmounts(step, arriving, type, context, at);
  return { checked: { lines: checked, order, amounts, type } satisfies CheckedLineSheet, problems };
}

/** What a reader would stumble over: a sheet without lines or figures, and two lines at one place. */
function placeProblems({ id, lines, amounts }: LineSheetStep): readonly Problem[] {
  const found: Problem[] = [];
  if (lines.length === 0) found.push(problem('sheet-empty', 'The sheet has no line yet.', { step: id }, 'a line, with what it says'));
  if (amounts.length === 0) found.push(problem('sheet-empty', 'The sheet has no figures.', { step: id }, 'a field of figures'));
  const places = new Map<string, SheetLine>();
  for (const line of lines) {
    const place = { step: id, field: line.id };
    if (line.kind !== 'blank' && line.wording.trim() === '')
      found.push(problem('wording-missing', 'This line has no wording yet.', place, 'what its figure is'));
    const key = line.place.trim();
    const other = key === '' ? undefined : places.get(key);
    if (other)
      found.push(
        warning(
          'place-twice',
          `${key} is the place of ${other.wording || 'a line before'} too.`,
          place,
          'a place of its own for each line',
        ),
      );
    if (key !== '') places.set(key, line);
  }
  return found;
}

/** Checks each line after those it is calculated of, wherever they stand. */
class Lines {
  private readonly names: ReadonlyMap<string, string>;
  private readonly done = new Map<string, CheckedLine>();
  private readonly underWay: SheetLine[] = [];
  private readonly order: CheckedLine[] = [];

  constructor(
    private readonly step: LineSheetStep,
    private readonly arriving: readonly Arriving[],
    private readonly context: Context,
    private readonly at: (item: string, found: readonly Problem[]) => void,
  ) {
    this.names = lineNames(step.lines);
  }

  all(): { readonly checked: readonly CheckedLine[]; readonly order: readonly CheckedLine[] } {
    return { checked: this.step.lines.map((each) => this.line(each)), order: this.order };
  }

  private line(line: SheetLine): CheckedLine {
    const known = this.done.get(line.id);
    if (known) return known;
    this.underWay.push(line);
    const checked = this.figure(line);
    this.underWay.pop();
    this.done.set(line.id, checked);
    this.order.push(checked);
    if (checked.calculated) this.context.budget.makes(line.id, checked.calculated);
    return checked;
  }

  private figure(line: SheetLine): CheckedLine {
    const { figure } = line;
    if (line.kind === 'heading' || line.kind === 'blank' || figure.from === 'nothing') return { line };
    if (figure.from === 'rows') return this.ofRows(line, figure);
    const calculated = figure.from === 'lines' ? this.ofLines(line, figure.expression) : this.ofRange(line, figure);
    return calculated ? { line, calculated } : { line };
  }

  private ofRows(line: SheetLine, figure: SheetLine['figure'] & { from: 'rows' }): CheckedLine {
    const { slot, aggregate, expression, among } = figure;
    if (slot > 0 && typeof this.step.inputs[slot] !== 'string') {
      this.at(line.id, [problem('step-missing', 'The step this line counts is gone.', {}, 'another step')]);
      return { line };
    }
    const value = { id: line.id, name: line.id, aggregate, expression, among, order: NOTHING_WRITTEN };
    const found = checkSummary({ id: this.step.id, keys: [], values: [value] }, this.arriving[slot] ?? NOTHING_ARRIVES, this.context);
    this.at(line.id, found.problems);
    const [told] = found.checked.values;
    if (!told?.type) return { line, slot };
    if (isNumber(told.type)) return { line, slot, told: { ...told, type: told.type } };
    this.at(line.id, [notANumber(told.type)]);
    return { line, slot };
  }

  private ofLines(line: SheetLine, expression: ExpressionText): Expression | undefined {
    if (expression.text.trim() === '') {
      this.at(line.id, [
        problem('figure-missing', 'Nothing is written for this line yet.', {}, 'other lines by their wording, or a number'),
      ]);
      return undefined;
    }
    const schema = { fields: this.step.lines.map((each) => this.asField(each, whole)) };
    const linked = linkReferences(expression.text, { schema, parameters: [] }).refs;
    const fixed = expression.refs.filter(({ kind }) => kind === 'field');
    const used = new Set([...fixed, ...linked].map((each) => each.id));
    const others = this.step.lines.filter((each) => each !== line && used.has(each.id));
    const sound: Field[] = [];
    const absent: AbsentField[] = [];
    if (used.has(line.id)) absent.push(this.circular(line, line));
    for (const other of others) {
      if (this.underWay.includes(other)) {
        absent.push(this.circular(line, other));
        continue;
      }
      const type = figureType(this.line(other));
      if (type) sound.push(this.asField(other, type));
      else absent.push(this.without(other));
    }
    const { parameters, calendar, budget } = this.context;
    const naming = { word: 'line', names: [...this.names].flatMap(([id, name]) => (id === line.id ? [] : [name])) };
    const shared = { parameters, calendar, budget, withoutOtherRows: ONE_ROW };
    const scope = { ...shared, schema: { fields: sound }, absent, naming, refs: expression.refs };
    const checked = checkExpression(expression.text, scope);
    this.at(line.id, checked.problems);
    if (!checked.expression || checked.problems.some(({ severity }) => severity === 'error')) return undefined;
    if (isNumber(checked.expression.type)) return checked.expression;
    this.at(line.id, [notANumber(checked.expression.type)]);
    return undefined;
  }

  /** Lines without a figure add nothing; where all are without, so is the sum. */
  private ofRange(line: SheetLine, { since, until }: SheetLine['figure'] & { from: 'range' }): Expression | undefined {
    const { lines } = this.step;
    const [a, b] = [since, until].map((id) => lines.findIndex((each) => each.id === id));
    if (a === undefined || b === undefined || a < 0 || b < 0) {
      this.at(line.id, [problem('range-missing', 'A line this one adds up is missing.', {}, 'a first and a last line')]);
      return undefined;
    }
    const range = lines.slice(Math.min(a, b), Math.max(a, b) + 1).filter((each) => each.kind === 'line' && each !== line);
    const circular = range.find((each) => this.underWay.includes(each));
    if (circular) {
      this.at(line.id, [problem('line-circular', this.circular(line, circular).message, {}, 'a range without it')]);
      return undefined;
    }
    const parts = range.flatMap((each): Expression[] => {
      const type = figureType(this.line(each));
      return type ? [{ op: 'field', type, id: each.id }] : [];
    });
    const [first, ...rest] = parts;
    if (!first) {
      this.at(line.id, [
        problem('range-empty', 'No line with a figure stands there.', {}, 'lines with figures between the first and the last'),
      ]);
      return undefined;
    }
    const or0 = (of: Expression): Expression => ({ op: 'coalesce', type: of.type, items: [of, widen(wholeLiteral(0), of.type)] });
    const sum = rest.reduce((left, right) => arithmetic('+', left, or0(right)), or0(first));
    const none = rest.length === 0 ? isNull(first) : ({ op: 'and', type: isNull(first).type, items: parts.map(isNull) } as const);
    return {
      op: 'case',
      type: sum.type,
      branches: [{ when: none, then: { op: 'literal', type: sum.type, value: null } }],
      otherwise: sum,
    };
  }

  private asField({ id }: SheetLine, type: FieldType): Field {
    return numberField(id, this.nameOf(id), type, this.step.id);
  }

  private nameOf(line: string): string {
    return this.names.get(line) ?? '';
  }

  private circular(line: SheetLine, other: SheetLine): AbsentField {
    const [own, name] = [this.nameOf(line.id), this.nameOf(other.id)];
    const message = line === other ? `${own} is calculated from itself.` : `${own} is calculated from ${name}, and ${name} from ${own}.`;
    return { id: other.id, name, code: 'line-circular', message, expected: 'one of them without the other' };
  }

  private without(other: SheetLine): AbsentField {
    const name = this.nameOf(other.id);
    const message = `${name} has no figure that can be calculated with.`;
    return { id: other.id, name, code: 'line-without-figure', message, expected: 'a line with a sound figure' };
  }
}

const NOTHING_WRITTEN: ExpressionText = { text: '', refs: [] };

/** More digits before the point than any figure has; sums and hundredths of figures keep room below the digits all engines hold. */
const MOST_WHOLE_DIGITS = 16;

const narrowed = (type: FieldType): FieldType =>
  type.kind === 'decimal' && !type.open ? decimal(Math.min(type.precision, MOST_WHOLE_DIGITS + type.scale), type.scale) : type;

/** The type of a line's figures, which may have fewer digits than what they are made of. */
export function figureType({ told, calculated }: Pick<CheckedLine, 'told' | 'calculated'>): FieldType | undefined {
  const made = told?.type ?? calculated?.type;
  return made && narrowed(made);
}

const notANumber = (type: FieldType) =>
  problem('figure-unsuited', `A line’s figure is a number, and this is a ${typeWord(type)}.`, {}, 'a number');

/** The pattern that is meant: the amount's own, the line's own, or one that shows the digits there are. */
export function patternOf(line: Pick<SheetLine, 'format'>, amount: Pick<SheetAmount, 'format'>, type: FieldType): string {
  const written = [amount.format, line.format].find((each) => each.trim() !== '');
  if (written !== undefined) return written;
  const scale = type.kind === 'decimal' ? Math.min(type.scale, 6) : type.kind === 'float' ? 6 : 0;
  return scale === 0 ? '#,##0' : `#,##0.${'#'.repeat(scale)}`;
}

/** How an amount's figures are shown, by each of the patterns there are. */
function shownBy(
  step: LineSheetStep,
  amount: SheetAmount,
  type: FieldType,
  { calendar }: Context,
  at: (item: string, found: readonly Problem[]) => void,
): ReadonlyMap<string, Expression> {
  const shown = new Map<string, Expression>();
  const [field, first] = [numberField(amount.id, 'figure', type, step.id), step.amounts[0] === amount];
  const scope = { schema: { fields: [field] }, parameters: [], calendar };
  for (const line of step.lines) {
    const pattern = patternOf(line, amount, type);
    if (shown.has(pattern)) continue;
    const { expression, problems } = checkExpression(`format_number(figure, '${pattern.replaceAll("'", "''")}')`, scope);
    const wrong = problems.find(({ severity }) => severity === 'error');
    if (expression && !wrong) shown.set(pattern, expression);
    else if (amount.format.trim() !== '' || first)
      at(amount.format.trim() === '' ? line.id : amount.id, [
        problem('format-unsuited', wrong?.message ?? 'This is no pattern.', {}, wrong?.expected ?? 'a pattern such as #,##0.00'),
      ]);
  }
  return shown;
}

function checkAmounts(
  step: LineSheetStep,
  arriving: readonly Arriving[],
  type: FieldType,
  context: Context,
  at: (item: string, found: readonly Problem[]) => void,
): readonly CheckedAmount[] {
  const { parameters, calendar, budget } = context;
  const checked: CheckedAmount[] = [];
  const names = new Set(Object.values(step.names).map((each) => each.name));
  for (const amount of step.amounts) {
    const { id, name } = amount;
    if (name.trim() === '') at(id, [problem('name-missing', 'These figures have no name yet.', {}, 'a name, such as kilos')]);
    else if (names.has(name)) at(id, [problem('name-taken', `There are two fields called ${name}.`, {}, 'a name of its own')]);
    names.add(name);
    if (amount.of.from === 'rows') {
      const among = step.inputs.map((_input, slot) => {
        const written = amongOf(amount, slot);
        if (written.text.trim() === '') return undefined;
        const { schema } = arriving[slot] ?? NOTHING_ARRIVES;
        const found = checkCondition(written.text, { parameters, calendar, budget, schema, withoutOtherRows: ONE_ROW, refs: written.refs });
        at(id, found.problems);
        return found.expression;
      });
      checked.push({ amount, among, type, shown: shownBy(step, amount, type, context, at) });
      continue;
    }
    const tell = (found: readonly Problem[]) => at(id, found);
    const calculated =
      amount.of.from === 'share' ? shareOf(step, amount.of, checked, tell) : ofAmounts(step, amount.of.expression, checked, context, tell);
    if (!calculated) continue;
    const made = narrowed(calculated.type);
    checked.push({ amount, among: [], calculated: widen(calculated, made), type: made, shown: shownBy(step, amount, made, context, at) });
  }
  return checked;
}

/** Made of the amounts before it, by their names. */
function ofAmounts(
  { id }: LineSheetStep,
  { text: written, refs }: ExpressionText,
  before: readonly CheckedAmount[],
  { parameters, calendar, budget }: Context,
  tell: (found: readonly Problem[]) => void,
): Expression | undefined {
  const fields = before.map(({ amount, type }) => numberField(amount.id, amount.name, type, id));
  const found = checkExpression(written, { parameters, calendar, budget, schema: { fields }, withoutOtherRows: ONE_ROW, refs });
  tell(found.problems);
  if (!found.expression || isNumber(found.expression.type)) return found.expression;
  tell([notANumber(found.expression.type)]);
  return undefined;
}

const numberField = (id: string, name: string, type: FieldType, step: string): Field => ({
  id,
  name,
  type,
  role: 'measure',
  origin: { step, column: '' },
  forUseOnly: false,
});

/** The id of the column that holds what an amount is in one line. */
export const baseId = (amount: string) => `${amount} base`;

function shareOf(
  step: LineSheetStep,
  { amount, line }: SheetAmount['of'] & { from: 'share' },
  before: readonly CheckedAmount[],
  tell: (found: readonly Problem[]) => void,
): Expression | undefined {
  const of = before.find((each) => each.amount.id === amount);
  if (!of) tell([problem('amount-missing', 'What this is a share of is missing.', {}, 'figures that stand before it')]);
  if (!step.lines.some((each) => each.id === line))
    tell([problem('line-missing', 'The line this is a share of is missing.', {}, 'a line that is 100 %')]);
  if (!of) return undefined;
  const field = (id: string): Expression => ({ op: 'field', type: of.type, id });
  return arithmetic('/', arithmetic('*', wholeLiteral(100), field(amount)), field(baseId(amount)));
}
