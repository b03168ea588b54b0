import { withArticle } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Calendar, Value } from '../values';
import { beginning, COMMON_CALENDAR, compareValues, writeValue } from '../values';
import { brokenLimit } from './limits';
import type { Parameter } from './parameter';
import { parameterType } from './parameter';
import { readParameterValue, readStretch } from './read';

/** Values as they come over the wire, by parameter id; an absent or empty list means left blank. */
export type GivenValues = Readonly<Record<string, readonly string[]>>;

export type Bound =
  | { readonly takes: 'one'; readonly value: Value }
  | { readonly takes: 'several'; readonly values: readonly Value[] }
  | { readonly takes: 'range'; readonly from: Value; readonly until: Value };

export interface Binding {
  readonly bound: ReadonlyMap<string, Bound>;
  /** The moment of the run, in microseconds of UTC since 1970: what the current date and time are. */
  readonly now: bigint;
  /** Blank parameters, and blank ends of ranges as `id.from` or `id.until`, with what that does to a condition. */
  readonly blanks: ReadonlyMap<string, 'off' | 'null'>;
  /** The values used, in wire form, defaults filled in and relative dates resolved: what a run records. */
  readonly used: GivenValues;
  readonly problems: readonly Problem[];
}

export const MAX_LIST = 100_000;
const MAX_VALUE_LENGTH = 10_000;

/**
 * Turns given values into typed ones. A value of the wrong type is a problem at its parameter, never a guess.
 * `now` comes from the caller, in microseconds of UTC, so that it is one moment for the whole run.
 */
export function bindValues(
  parameters: readonly Parameter[],
  given: GivenValues,
  now: bigint,
  calendar: Calendar = COMMON_CALENDAR,
): Binding {
  const bound = new Map<string, Bound>();
  const blanks = new Map<string, 'off' | 'null'>();
  const used: Record<string, readonly string[]> = {};
  const problems: Problem[] = [];
  for (const parameter of parameters) {
    const values = given[parameter.id] ?? (parameter.startsBy === undefined ? parameter.startsAs : []);
    const result = bindOne(parameter, values, now, calendar);
    used[parameter.id] = result.bound && isDated(parameter) ? written(parameter, result.bound) : values;
    problems.push(...result.problems);
    if (result.bound) bound.set(parameter.id, result.bound);
    for (const [key, blank] of result.blanks) blanks.set(key, blank);
  }
  return { bound, now, blanks, used, problems };
}

interface One {
  readonly bound?: Bound;
  readonly blanks: readonly (readonly [string, 'off' | 'null'])[];
  readonly problems: readonly Problem[];
}

function bindOne(parameter: Parameter, given: readonly string[], now: bigint, calendar: Calendar): One {
  if (given.length > MAX_LIST)
    return failed(parameter, 'list-too-long', `:${parameter.name} was given ${given.length} values.`, `at most ${MAX_LIST}`);
  if (given.every((each) => each.trim() === '')) return leftBlank(parameter);
  const reading = new Reading(parameter, now, calendar);
  const result =
    parameter.takes === 'range' ? reading.range(given) : parameter.takes === 'one' ? reading.single(given) : reading.list(given);
  if (!result.bound) return result;
  const broken = brokenLimit(parameter, valuesOf(result.bound), now, calendar);
  return broken ? { blanks: [], problems: [broken] } : result;
}

function valuesOf(bound: Bound): readonly Exclude<Value, null>[] {
  const values = bound.takes === 'one' ? [bound.value] : bound.takes === 'several' ? bound.values : [bound.from, bound.until];
  return values.flatMap((each) => (each === null ? [] : [each]));
}

const isDated = ({ type }: Parameter) => type === 'date' || type === 'date-time';

function written(parameter: Parameter, bound: Bound): readonly string[] {
  const type = parameterType(parameter);
  const text = (value: Value) => (value === null ? '' : writeValue(type, value));
  if (bound.takes === 'one') return [text(bound.value)];
  return bound.takes === 'several' ? bound.values.map(text) : [text(bound.from), text(bound.until)];
}

/** Reads the values of one parameter at one moment. */
class Reading {
  constructor(
    private readonly parameter: Parameter,
    private readonly now: bigint,
    private readonly calendar: Calendar,
  ) {}

  single(given: readonly string[]): One {
    const { parameter } = this;
    const [source = ''] = given;
    if (given.length > 1)
      return failed(
        parameter,
        'value-several',
        `:${parameter.name} takes one value and was given ${given.length}.`,
        'one value, or a parameter that takes several',
      );
    const { value, problems } = this.one(source, 'from');
    if (problems.length === 0) return { bound: { takes: 'one', value }, blanks: [], problems };
    const commas = source.includes(',') && parameter.type !== 'text';
    const asked = problems.map((each) => ({ ...each, expected: `${each.expected}; did you mean several values?` }));
    return { blanks: [], problems: commas ? asked : problems };
  }

  list(given: readonly string[]): One {
    const distinct = [...new Set(given.filter((each) => each.trim() !== ''))];
    const read = distinct.map((each) => this.one(each, 'from'));
    const problems = read.flatMap((each) => each.problems).slice(0, 20);
    if (problems.length > 0) return { blanks: [], problems };
    return { bound: { takes: 'several', values: read.map((each) => each.value) }, blanks: [], problems };
  }

  range(given: readonly string[]): One {
    const { parameter } = this;
    const [low = '', high = '', ...rest] = given;
    if (rest.length > 0)
      return failed(parameter, 'range-ends', `:${parameter.name} takes a range and was given ${given.length} values.`, 'from and until');
    const stretch = high.trim() === '' ? readStretch(parameter, low, this.now, this.calendar) : undefined;
    if (stretch) return { bound: { takes: 'range', ...stretch }, blanks: [], problems: [] };
    const [from, until] = [this.end(low, 'from'), this.end(high, 'until')];
    const problems = [...from.problems, ...until.problems];
    if (problems.length > 0) return { blanks: [], problems };
    if (from.value !== null && until.value !== null && compareValues(parameterType(parameter), from.value, until.value) > 0)
      return failed(parameter, 'range-reversed', `:${parameter.name} begins with ${low}, after its end ${high}.`, 'from not after until');
    const blanks = [
      ...(from.value === null ? [[`${parameter.id}.from`, 'off'] as const] : []),
      ...(until.value === null ? [[`${parameter.id}.until`, 'off'] as const] : []),
    ];
    return { bound: { takes: 'range', from: from.value, until: until.value }, blanks, problems };
  }

  private end(source: string, end: 'from' | 'until') {
    return source.trim() === '' ? { value: null, problems: [] } : this.one(source, end);
  }

  private one(source: string, end: 'from' | 'until'): { readonly value: Value; readonly problems: readonly Problem[] } {
    const { parameter } = this;
    const place = { parameter: parameter.id };
    if (source.length > MAX_VALUE_LENGTH) {
      const message = `The value of :${parameter.name} is ${source.length} characters long.`;
      return { value: null, problems: [problem('value-too-long', message, place, `at most ${MAX_VALUE_LENGTH}`)] };
    }
    const read = readParameterValue(parameter, source, this.now, this.calendar, end);
    if (read.ok) return { value: read.value, problems: [] };
    const shown = source.length > 60 ? `${beginning(source, 60)}…` : source;
    return {
      value: null,
      problems: [problem('value-wrong-type', `“${shown}” is no value for :${parameter.name}.`, place, read.expected)],
    };
  }
}

function leftBlank(parameter: Parameter): One {
  if (parameter.leftBlank === 'must be filled')
    return failed(parameter, 'value-required', `:${parameter.name} must be filled.`, withArticle(parameter.type));
  const blank = parameter.leftBlank === 'condition is off' ? 'off' : 'null';
  const keys = parameter.takes === 'range' ? [`${parameter.id}.from`, `${parameter.id}.until`] : [parameter.id];
  return { blanks: keys.map((key) => [key, blank] as const), problems: [] };
}

function failed(parameter: Parameter, code: string, message: string, expected: string): One {
  return { blanks: [], problems: [problem(code, message, { parameter: parameter.id }, expected)] };
}
