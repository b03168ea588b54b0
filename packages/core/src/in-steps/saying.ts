import type { Parameter } from '../parameters';
import type { ParameterPlace, SyntaxTree, TreeNode } from '../statements';
import { Offsets } from '../statements';
import type { Arriving, CheckContext, ReadTable, Step } from '../steps';
import { kindOf, NOTHING_ARRIVES } from '../steps';
import { saidExpression } from './expression';
import type { Meaning } from './meaning';
import { unsaid } from './unsaid';

/** Rows a step gives, and what they are. */
export interface RowsOf {
  readonly step: string;
  readonly arriving: Arriving;
}

export interface SayingOf {
  readonly context: CheckContext;
  readonly mint: () => string;
  readonly source: string;
  /** The tables of the source that are known. */
  readonly tables: readonly ReadTable[];
  /** The text as the grammar took it, and where parameters stand in it, under the names it has for them. */
  readonly form: string;
  readonly places: readonly ParameterPlace[];
  readonly parameters: readonly Parameter[];
  /** Parameters that other steps ask with, by id. */
  readonly usedElsewhere: readonly string[];
}

/** A text on its way into steps: those there are so far, each checked as it is put, and what its parameters mean. */
export class Saying {
  private readonly made: Step[] = [];
  private readonly gives = new Map<string, Arriving>();
  private readonly offsets: Offsets;
  /** Parameters that have to switch their condition off when they are blank, with how many steps there were when that was said. */
  private readonly switching = new Map<string, number>();

  constructor(readonly of: SayingOf) {
    this.offsets = new Offsets(of.form);
  }

  get steps(): readonly Step[] {
    return this.made;
  }

  /** Parameters that have to switch their condition off when they are blank, as the text does; by id. */
  get off(): readonly string[] {
    return [...this.switching.keys()];
  }

  /** Puts a step behind those it stands on. Throws Unsaid where it would be wrong. */
  put(step: Step): RowsOf {
    const arriving = step.inputs.map((id) => (id === null ? undefined : this.gives.get(id)) ?? NOTHING_ARRIVES);
    const { schema, grain, problems } = kindOf(step).check(step, arriving, this.of.context);
    const wrong = problems.find((each) => each.severity === 'error');
    if (wrong) return unsaid(wrong.message);
    this.made.push(step);
    this.gives.set(step.id, { schema, grain });
    return { step: step.id, arriving: { schema, grain } };
  }

  /** Takes back all that was said since there were so many steps. */
  backTo(count: number): void {
    for (const { id } of this.made.splice(count)) this.gives.delete(id);
    for (const [id, steps] of this.switching) if (steps >= count) this.switching.delete(id);
  }

  /** Where a place of the tree is in the text, in UTF-16 units. */
  at(location: SyntaxTree | undefined): number {
    return this.offsets.ofBytes(typeof location === 'number' ? location : 0);
  }

  /** What names mean to expressions over rows. */
  meaning(
    { arriving }: RowsOf,
    column: Meaning['column'],
    windows: ReadonlyMap<string, TreeNode['of']>,
    switches: boolean,
    instead?: Meaning['instead'],
  ): Meaning {
    const { parameters, calendar } = this.of.context;
    return {
      say: saidExpression,
      scope: { schema: arriving.schema, parameters, calendar },
      column,
      windows,
      switches,
      ...(instead ? { instead } : {}),
      parameter: (location) => {
        const at = this.at(location);
        const place = this.of.places.find(({ written }) => written.from <= at && at < written.to);
        const parameter = this.of.parameters.find((each) => each.name === place?.name);
        if (!place || !parameter) return unsaid(`There is no parameter :${place?.name ?? ''} in the dataset.`, location);
        const all = this.of.places.filter((each) => each.name === place.name);
        const asked = all.some((each) => each.stands === 'asked whether blank');
        return { parameter: named(parameter, parameters), asked, places: all.length };
      },
      switchesOff: ({ id, leftBlank }) => {
        if (leftBlank !== 'matches empty') return true;
        if (this.of.usedElsewhere.includes(id)) return false;
        this.switching.set(id, this.made.length);
        return true;
      },
    };
  }
}

/** The parameter under the name it has in the dataset, whatever the text calls it. */
const named = (parameter: Parameter, parameters: readonly Parameter[]) => parameters.find(({ id }) => id === parameter.id) ?? parameter;
