import { Inject, Injectable } from '@nestjs/common';
import type { Binding, CheckedTrail, Definition, GivenValues, QuestionContext } from '@cendra/core';
import { bindDefinition, catalogueOf, checkTrail, choices, sourcesOf } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import { DatasetRights, KnownTablesService } from '../datasets';
import type { KnownTableDto } from '../datasets/dataset.dto';
import { Engine, ResultStore } from '../engine';
import type { Person } from '../people';
import { ProblemException, refused } from '../problems';
import type { Source } from '../sources';
import { SourcesService } from '../sources';
import { answer } from './answering';
import { RUNS_ENGINE } from './engines';

/** Values as they come with a request. */
export type WireValues = Readonly<Record<string, readonly string[]>>;

/** Everything that has to be known before something of a dataset runs. */
export interface Prepared {
  readonly definition: Definition;
  readonly trail: CheckedTrail;
  readonly binding: Binding;
  /** The moment of it: what the current date and time are. */
  readonly now: Date;
  /** The sources of the dataset that still exist, by id. */
  readonly sources: ReadonlyMap<string, Source>;
}

type Answerable = Omit<QuestionContext, 'others'> & { readonly sources: ReadonlyMap<string, Source> };

/** Checks and binds a dataset that a person holds. */
@Injectable()
export class PreparingService {
  /** Trails by their definition, while the tables are known to look alike. */
  private readonly checked = new WeakMap<Definition, { readonly known: string; readonly trail: CheckedTrail }>();

  constructor(
    private readonly rights: DatasetRights,
    private readonly known: KnownTablesService,
    private readonly sources: SourcesService,
    private readonly store: ResultStore,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
  ) {}

  /** Refuses values of a wrong form; what is wrong with values is told by the binding. */
  async prepare(person: Person, { definition, sources }: HeldDatasetOf, values: WireValues, signal: AbortSignal): Promise<Prepared> {
    const shaped = Object.values(values).every((each) => Array.isArray(each) && each.every((item) => typeof item === 'string'));
    if (!shaped)
      throw refused(
        400,
        'values-wrong',
        'The parameter values are not as they should be.',
        { pointer: '/values' },
        'for each parameter a list of texts',
      );
    const trail = this.check(definition, await this.known.of(definition, sources, false));
    const now = new Date();
    const prepared = { definition, trail, now, sources, binding: bound(definition, values, now) };
    const started = await this.firstChoices(person, prepared, values, signal);
    return started ? { ...prepared, binding: bound(definition, { ...started, ...values }, now) } : prepared;
  }

  /** The datasets that choices of the parameters come from, in their newest revision, with what they start as. */
  async contextOf(person: Person, prepared: Prepared): Promise<QuestionContext & { readonly sources: ReadonlyMap<string, Source> }> {
    const ids = prepared.definition.parameters.flatMap(({ choices: offered }) => (offered?.from === 'dataset' ? [offered.dataset] : []));
    const others = new Map<string, Omit<QuestionContext, 'others'>>();
    const sources = new Map(prepared.sources);
    for (const id of new Set(ids)) {
      const other = await this.other(person, id, prepared.now);
      if (!other) continue;
      others.set(id, other);
      for (const [source, each] of other.sources) sources.set(source, each);
    }
    return { trail: prepared.trail, binding: prepared.binding, others, sources };
  }

  /** Carries a question out where its rows are. */
  answer<A>(context: Answerable, question: Parameters<typeof answer<A>>[0], signal: AbortSignal): Promise<A> {
    const sourceOf = (id: string) => context.sources.get(id) ?? gone();
    const sites = {
      binding: context.binding,
      signal,
      open: (id: string) => this.sources.open(sourceOf(id), signal),
      dialect: (id: string) => this.sources.connector(sourceOf(id)).dialect,
    };
    return answer(question, sites, this.engine, this.store);
  }

  private check(definition: Definition, known: readonly KnownTableDto[]): CheckedTrail {
    const remembered = this.checked.get(definition);
    const key = JSON.stringify(known);
    if (remembered?.known === key) return remembered.trail;
    const trail = checkTrail(definition, catalogueOf(known));
    this.checked.set(definition, { known: key, trail });
    return trail;
  }

  private async other(person: Person, id: string, now: Date): Promise<Answerable | undefined> {
    const open = await this.rights.hold(person, id).catch((error: unknown) => {
      if (error instanceof ProblemException && error.getStatus() !== 403) return undefined;
      throw error;
    });
    if (!open) return undefined;
    const { definition, sources } = open;
    const trail = this.check(definition, await this.known.of(definition, sources, false));
    return { trail, binding: bound(definition, {}, now), sources };
  }

  /** Parameters that start as the first of their choices, where no value is given. */
  private async firstChoices(
    person: Person,
    prepared: Prepared,
    values: GivenValues,
    signal: AbortSignal,
  ): Promise<GivenValues | undefined> {
    const missing = prepared.definition.parameters.filter((each) => each.startsBy === 'first choice' && values[each.id] === undefined);
    if (missing.length === 0) return undefined;
    const started: Record<string, readonly string[]> = {};
    for (const { id, choices: offered } of missing) {
      if (!offered) continue;
      if (offered.from === 'typed') started[id] = offered.items.slice(0, 1).map((each) => each.value);
      else {
        // Narrowing parameters that come before have their first choice already.
        const binding = bound(prepared.definition, { ...started, ...values }, prepared.now);
        const context = await this.contextOf(person, { ...prepared, binding });
        const [first] = (await this.answer(context, choices(context, id, ''), signal)).values;
        started[id] = first ? [first.value] : [];
      }
    }
    return started;
  }
}

const gone = (): never => {
  throw refused(422, 'source-gone', 'A source this dataset reads was removed.');
};

/** Which of the sources that steps read do not exist any more. */
export const missingSources = (steps: Definition['steps'], sources: ReadonlyMap<string, Source>): readonly string[] =>
  sourcesOf({ steps }).filter((id) => !sources.has(id));

const bound = (definition: Definition, values: GivenValues, now: Date) =>
  bindDefinition(definition, values, BigInt(now.getTime()) * 1_000n);
