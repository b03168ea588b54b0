import type { Binding, Parameter } from '../parameters';
import { refuse } from '../problem';
import type { SessionCall, Site } from '../sql';
import { compile, runnableText } from '../sql';
import type { NameOf } from '../sql';
import type { CheckedTrail } from '../trail';
import { subTrail, valuesText } from '../trail';
import { kindOf } from '../steps';
import type { DialectOf, Plan, Stage } from './plan';

/** What one stage of a plan is as a text of its own. */
export interface RunnableText {
  readonly site: Site;
  /** What its rows are called where a later text reads them. */
  readonly result: string;
  readonly text: string;
}

/** So much of a parameter's value is told at the head of a text. */
const MOST_TOLD = 60;

/**
 * The stages of a step's plan as texts that can be run by hand, one a place: `:name` stands for each parameter that has a
 * value, days relative to the run are as of it, and a condition that is off is not there. The head of each says so. The
 * places have to write values as `$n`. What is asked for by keys in a run is asked for whole in a text.
 */
export function runnableTexts(
  trail: CheckedTrail,
  step: string,
  plan: Plan,
  binding: Binding,
  dialects: DialectOf,
  nameOfSite: (site: Site) => string,
): readonly RunnableText[] {
  const asked = askedIn(trail, step);
  const names = namesOf(trail.definition.parameters);
  return plan.stages.map((stage) => {
    const statement = compile(stage.keys?.all ?? stage.relation, dialects(stage.site), binding);
    const head = [headOf(trail, step, stage, plan, nameOfSite), ...asked.flatMap((each) => told(each, binding, names))];
    // What a script runs in its session before stands before it.
    const before = (statement.script?.statements ?? []).map((each) =>
      each.call ? { ...each, text: keptText(each.text, each.call, step) } : each,
    );
    const statements = [...before, statement].map((each) => runnableText(each, names));
    const text = `${head.map((line) => `-- ${plain(line)}\n`).join('')}${statements.join(';\n')}`;
    return { site: stage.site, result: stage.result, text };
  });
}

/** A call as a text that keeps its rows where what follows reads them; throws a ProblemError for what no text reads. */
function keptText(text: string, { result, into, given }: SessionCall, step: string): string {
  if (result.of !== 'rows')
    return refuse(
      'call-not-a-text',
      'What a procedure gives back, or a cursor has, is read by no text of its own.',
      { step },
      'the rows taken away, or the call run by hand',
    );
  return `create temporary table ${into} (${given.map((_each, at) => `c${at + 1}`).join(', ')}) as ${text}`;
}

function headOf({ definition, steps }: CheckedTrail, step: string, stage: Stage, plan: Plan, nameOfSite: (site: Site) => string): string {
  const title = steps.find((each) => each.step.id === step)?.title ?? '';
  const part = plan.stages.length > 1 ? `, part “${stage.result}”` : '';
  const reads = stage.reads.length > 0 ? `, reads ${stage.reads.map((each) => `“${each}”`).join(', ')}` : '';
  return `${definition.title}, “${title}”${part}: in ${nameOfSite(stage.site)}${reads}`;
}

/** A parameter that decides rows, and what it comes to where it is left blank and no condition asks with it. */
interface Asked {
  readonly parameter: Parameter;
  readonly passes: string | undefined;
}

/** Parameters that decide the step's rows, in the order they are met. */
function askedIn(trail: CheckedTrail, step: string): readonly Asked[] {
  const { parameters } = trail.definition;
  const within = new Set(subTrail(trail.definition, step).flatMap((each) => (each.off ? [] : [each.id])));
  const met = new Map<string, Asked>();
  for (const checked of trail.steps) {
    if (!within.has(checked.step.id)) continue;
    for (const { parameter: id, blank } of kindOf(checked.step).mentions(checked, parameters)) {
      const parameter = parameters.find((each) => each.id === id);
      if (parameter && !met.has(id)) met.set(id, { parameter, passes: blank });
    }
  }
  return [...met.values()];
}

/** A parameter of a range is two names, which no other parameter has. */
function namesOf(parameters: readonly Parameter[]): NameOf {
  const taken = new Set(parameters.map((each) => each.name));
  const names = new Map<string, string>();
  for (const { id, name, takes } of parameters) {
    if (takes !== 'range') names.set(id, name);
    else for (const end of ['from', 'until'] as const) names.set(`${id}.${end}`, free(`${name}_${end}`, taken));
  }
  return ({ id, end }) => names.get(end ? `${id}.${end}` : id);
}

function free(name: string, taken: Set<string>): string {
  let found = name;
  for (let count = 2; taken.has(found); count++) found = `${name}_${count}`;
  taken.add(found);
  return found;
}

/** What a parameter is in the text, without the values of one whose values are nobody else's. */
function told({ parameter, passes }: Asked, { used, blanks }: Binding, nameOf: NameOf): readonly string[] {
  const { id, takes, name } = parameter;
  const ends = takes === 'range' ? (['from', 'until'] as const) : ([undefined] as const);
  const written = (end: 'from' | 'until' | undefined) => `:${nameOf({ id, ...(end ? { end } : {}) }) ?? name}`;
  const filled = ends.filter((end) => !blanks.has(end ? `${id}.${end}` : id));
  const off = ends.some((end) => blanks.get(end ? `${id}.${end}` : id) === 'off');
  const meant = off ? 'its condition is not in this text' : 'null stands in its place';
  const blank = `left blank, ${passes ?? meant}`;
  if (filled.length === 0) return [`:${name}: ${blank}`];
  const values = used[id] ?? [];
  const here = parameter.isPrivate ? '' : `, here ${shortened(valuesText(parameter, values))}`;
  const kept = `${filled.map(written).join(', ')}: ${parameter.type}${takes === 'several' ? ', several' : ''}${here}`;
  const open = ends.filter((end) => !filled.includes(end));
  return open.length === 0 ? [kept] : [kept, `${open.map(written).join(', ')}: ${blank}`];
}

const shortened = (text: string) => (text.length > MOST_TOLD ? `${text.slice(0, MOST_TOLD)}…` : text);

/** A comment ends with its line. */
const plain = (line: string) => line.replace(/[\r\n\u0085\u2028\u2029]+/g, ' ');
