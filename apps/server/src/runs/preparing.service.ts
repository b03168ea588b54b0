import { Inject, Injectable } from '@nestjs/common';
import type { Binding, Catalogue, CheckedTrail, Definition, GivenValues, QuestionContext } from '@cendra/core';
import { bindDefinition, checkTrail, choices, sourcesOf } from '@cendra/core';
import { catalogueOf, DatasetsService } from '../datasets';
import { Engine, ResultStore } from '../engine';
import type { Person } from '../people';
import { ProblemException, refused } from '../problems';
import type { Source } from '../sources';
import { SourcesService } from '../sources';
import { answer } from './answering';
import { RUNS_ENGINE } from './engines';

/** A revision of a dataset with values, as a person asks for it. */
export interface Given {
  readonly dataset: string;
  readonly revision: number;
  readonly values: Readonly<Record<string, readonly string[]>>;
}

/** Everything that has to be known before something of a dataset runs. */
export interface Prepared {
  readonly definition: Definition;
  readonly trail: CheckedTrail;
  readonly binding: Binding;
  readonly catalogue: Catalogue;
  /** The moment of it: what the current date and time are. */
  readonly now: Date;
  /** The sources of the dataset that still exist, by id. */
  readonly sources: ReadonlyMap<string, Source>;
}

/** Reads, checks and binds a dataset under the rights of the person who asks. */
@Injectable()
export class PreparingService {
  constructor(
    private readonly datasets: DatasetsService,
    private readonly sources: SourcesService,
    private readonly store: ResultStore,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
  ) {}

  /** Refuses values of a wrong form and a person who lacks a source; what is wrong with values is told by the binding. */
  async prepare(person: Person, given: Given, signal: AbortSignal): Promise<Prepared> {
    const values = given.values;
    const shaped = Object.values(values).every((each) => Array.isArray(each) && each.every((item) => typeof item === 'string'));
    if (!shaped)
      throw refused(
        400,
        'values-wrong',
        'The parameter values are not as they should be.',
        { pointer: '/values' },
        'for each parameter a list of texts',
      );
    const { definition } = await this.datasets.definition(given.dataset, given.revision);
    const [found, known] = await Promise.all([
      this.sources.byIds(sourcesOf(definition)),
      this.datasets.known(person, definition, false),
      this.requireSources(person, definition),
    ]);
    const sources = new Map(found.map((each) => [each.id, each]));
    const catalogue = catalogueOf(known);
    const trail = checkTrail(definition, catalogue);
    const now = new Date();
    const prepared = { definition, trail, catalogue, now, sources, binding: bound(definition, values, now) };
    const started = await this.firstChoices(person, prepared, values, signal);
    return started ? { ...prepared, binding: bound(definition, { ...started, ...values }, now) } : prepared;
  }

  async requireSources(person: Person, definition: Definition): Promise<void> {
    if (await this.sources.mayUse(person, sourcesOf(definition))) return;
    throw refused(403, 'source-missing', 'You lack a source this dataset reads.', {}, 'a steward who gives you the source');
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
      for (const each of other.sources) sources.set(each.id, each);
    }
    return { trail: prepared.trail, binding: prepared.binding, catalogue: prepared.catalogue, others, sources };
  }

  private async other(person: Person, id: string, now: Date) {
    const open = await this.datasets.definition(id).catch((error: unknown) => {
      if (error instanceof ProblemException) return undefined;
      throw error;
    });
    if (!open) return undefined;
    const { definition } = open;
    await this.requireSources(person, definition);
    const catalogue = catalogueOf(await this.datasets.known(person, definition, false));
    const sources = await this.sources.byIds(sourcesOf(definition));
    return { trail: checkTrail(definition, catalogue), catalogue, binding: bound(definition, {}, now), sources };
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

  /** Carries a question out where its rows are. */
  answer<A>(
    context: Omit<QuestionContext, 'others'> & { readonly sources: ReadonlyMap<string, Source> },
    question: Parameters<typeof answer<A>>[0],
    signal: AbortSignal,
  ): Promise<A> {
    const sourceOf = (id: string) => {
      const source = context.sources.get(id);
      if (!source) throw refused(422, 'source-gone', 'A source this dataset reads was removed.');
      return source;
    };
    const places = {
      binding: context.binding,
      signal,
      open: (id: string) => this.sources.open(sourceOf(id)),
      dialect: (id: string) => this.sources.connector(sourceOf(id)).dialect,
    };
    return answer(question, places, this.engine, this.store);
  }
}

const bound = (definition: Definition, values: GivenValues, now: Date) =>
  bindDefinition(definition, values, BigInt(now.getTime()) * 1_000n);
