import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Value } from '../values';
import { compareValues, readValue } from '../values';
import type { Parameter } from './parameter';
import { parameterType } from './parameter';

/** Values as they come over the wire, by parameter id; an absent or empty list means left blank. */
export type GivenValues = Readonly<Record<string, readonly string[]>>;

export type Bound =
  | { readonly takes: 'one'; readonly value: Value }
  | { readonly takes: 'several'; readonly values: readonly Value[] }
  | { readonly takes: 'range'; readonly from: Value; readonly until: Value };

export interface Binding {
  readonly bound: ReadonlyMap<string, Bound>;
  /** Blank parameters, and blank ends of ranges as `id.from` or `id.until`, with what that does to a condition. */
  readonly blanks: ReadonlyMap<string, 'off' | 'null'>;
  /** The values used, in wire form, defaults filled in: what a run records. */
  readonly used: GivenValues;
  readonly problems: readonly Problem[];
}

export const MAX_LIST = 100_000;
const MAX_VALUE_LENGTH = 10_000;

/** Turns given values into typed ones. A value of the wrong type is a problem at its parameter, never a guess. */
export function bindValues(parameters: readonly Parameter[], given: GivenValues): Binding {
  const bound = new Map<string, Bound>();
  const blanks = new Map<string, 'off' | 'null'>();
  const used: Record<string, readonly string[]> = {};
  const problems: Problem[] = [];
  for (const parameter of parameters) {
    const values = given[parameter.id] ?? parameter.startsAs;
    used[parameter.id] = values;
    const result = bindOne(parameter, values);
    problems.push(...result.problems);
    if (result.bound) bound.set(parameter.id, result.bound);
    for (const [key, blank] of result.blanks) blanks.set(key, blank);
  }
  return { bound, blanks, used, problems };
}

interface One {
  readonly bound?: Bound;
  readonly blanks: readonly (readonly [string, 'off' | 'null'])[];
  readonly problems: readonly Problem[];
}

function bindOne(parameter: Parameter, given: readonly string[]): One {
  if (given.length > MAX_LIST)
    return failed(parameter, 'list-too-long', `:${parameter.name} was given ${given.length} values.`, `at most ${MAX_LIST}`);
  if (given.every((each) => each.trim() === '')) return leftBlank(parameter);
  if (parameter.takes === 'range') return bindRange(parameter, given);
  if (parameter.takes === 'one') {
    if (given.length > 1)
      return failed(
        parameter,
        'value-several',
        `:${parameter.name} takes one value and was given ${given.length}.`,
        'one value, or a parameter that takes several',
      );
    return bindSingle(parameter, given[0] ?? '');
  }
  const distinct = [...new Set(given.filter((each) => each.trim() !== ''))];
  const read = distinct.map((each) => readOne(parameter, each));
  const problems = read.flatMap((each) => each.problems).slice(0, 20);
  return problems.length > 0
    ? { blanks: [], problems }
    : { bound: { takes: 'several', values: read.map((each) => each.value) }, blanks: [], problems };
}

function bindSingle(parameter: Parameter, given: string): One {
  const read = readOne(parameter, given);
  const commas = given.includes(',') && parameter.type !== 'text';
  const problems = commas
    ? read.problems.map((each) => ({ ...each, expected: `${each.expected}; did you mean several values?` }))
    : read.problems;
  return problems.length > 0 ? { blanks: [], problems } : { bound: { takes: 'one', value: read.value }, blanks: [], problems };
}

function bindRange(parameter: Parameter, given: readonly string[]): One {
  const [low = '', high = '', ...rest] = given;
  if (rest.length > 0)
    return failed(parameter, 'range-ends', `:${parameter.name} takes a range and was given ${given.length} values.`, 'from and until');
  const ends = [low, high].map((each) => (each.trim() === '' ? { value: null, problems: [] } : readOne(parameter, each)));
  const [from = null, until = null] = ends.map((each) => each.value);
  const problems = ends.flatMap((each) => each.problems);
  if (problems.length > 0) return { blanks: [], problems };
  if (from !== null && until !== null && compareValues(parameterType(parameter), from, until) > 0) {
    return failed(parameter, 'range-reversed', `:${parameter.name} begins with ${low}, after its end ${high}.`, 'from not after until');
  }
  const blanks = [
    ...(from === null ? [[`${parameter.id}.from`, 'off'] as const] : []),
    ...(until === null ? [[`${parameter.id}.until`, 'off'] as const] : []),
  ];
  return { bound: { takes: 'range', from, until }, blanks, problems };
}

function leftBlank(parameter: Parameter): One {
  if (parameter.leftBlank === 'must be filled')
    return failed(parameter, 'value-required', `:${parameter.name} must be filled.`, `a ${parameter.type}`);
  const blank = parameter.leftBlank === 'condition is off' ? 'off' : 'null';
  const keys = parameter.takes === 'range' ? [`${parameter.id}.from`, `${parameter.id}.until`] : [parameter.id];
  return { blanks: keys.map((key) => [key, blank] as const), problems: [] };
}

function readOne(parameter: Parameter, source: string): { readonly value: Value; readonly problems: readonly Problem[] } {
  if (source.length > MAX_VALUE_LENGTH) {
    return {
      value: null,
      problems: [
        problem(
          'value-too-long',
          `The value of :${parameter.name} is ${source.length} characters long.`,
          { parameter: parameter.id },
          `at most ${MAX_VALUE_LENGTH}`,
        ),
      ],
    };
  }
  const read = readValue(parameterType(parameter), source);
  if (read.ok) return { value: read.value, problems: [] };
  const shown = source.length > 60 ? `${source.slice(0, 60)}…` : source;
  return {
    value: null,
    problems: [problem('value-wrong-type', `“${shown}” is no value for :${parameter.name}.`, { parameter: parameter.id }, read.expected)],
  };
}

function failed(parameter: Parameter, code: string, message: string, expected: string): One {
  return { blanks: [], problems: [problem(code, message, { parameter: parameter.id }, expected)] };
}
