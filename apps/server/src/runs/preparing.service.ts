import { Inject, Injectable } from '@nestjs/common';
import type { Answers, Binding, Definition, GivenValues, Question, TrailOutline } from '@cendra/core';
import { bindDefinition, listedWords, sourcesOf } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import { DatasetRights, KnownTablesService } from '../datasets';
import { Engine, ResultStore } from '../engine';
import type { Person } from '../people';
import type { Answerable, Given, Subject } from '../planning';
import { Planner, subjectOf } from '../planning';
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
  readonly subject: Subject;
  readonly trail: TrailOutline;
  readonly binding: Binding;
  /** The moment of it: what the current date and time are. */
  readonly now: Date;
  /** The sources of the dataset that still exist, by id. */
  readonly sources: ReadonlyMap<string, Source>;
}

/** What a question is asked with: the sources are also those of the datasets that choices come from. */
export type QuestionAbout = Omit<Answerable, 'question'> & { readonly sources: ReadonlyMap<string, Source> };
type Other = Pick<Given, 'subject' | 'binding'> & { readonly sources: ReadonlyMap<string, Source> };

/** Checks and binds a dataset that a person holds. */
@Injectable()
export class PreparingService {
  constructor(
    private readonly rights: DatasetRights,
    private readonly known: KnownTablesService,
    private readonly sources: SourcesService,
    private readonly store: ResultStore,
    private readonly planner: Planner,
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
    requireOneSource(definition, sources);
    const subject = subjectOf(definition, await this.known.of(definition, sources, false));
    const trail = await this.planner.outline(subject, signal);
    const now = new Date();
    const prepared = { definition, subject, trail, now, sources, binding: bound(definition, values, now) };
    const started = await this.firstChoices(person, prepared, values, signal);
    return started ? { ...prepared, binding: bound(definition, { ...started, ...values }, now) } : prepared;
  }

  /** The datasets that choices of the parameters come from, in their newest revision, with what they start as. */
  async contextOf(person: Person, prepared: Prepared): Promise<QuestionAbout> {
    const ids = prepared.definition.parameters.flatMap(({ choices: offered }) => (offered?.from === 'dataset' ? [offered.dataset] : []));
    const others = new Map<string, Pick<Given, 'subject' | 'binding'>>();
    const sources = new Map(prepared.sources);
    for (const id of new Set(ids)) {
      const other = await this.other(person, id, prepared.now);
      if (!other) continue;
      others.set(id, { subject: other.subject, binding: other.binding });
      for (const [source, each] of other.sources) sources.set(source, each);
    }
    return { subject: prepared.subject, binding: prepared.binding, kinds: kindsOf(sources), others, sources };
  }

  /** Carries a question out where its rows are. */
  async answer<Q extends Question>({ sources, ...given }: QuestionAbout, question: Q, signal: AbortSignal): Promise<Answers[Q['kind']]> {
    const sourceOf = (id: string) => sources.get(id) ?? gone();
    const sites = {
      binding: given.binding,
      signal,
      open: (id: string) => this.sources.open(sourceOf(id), signal),
      write: this.planner.writes(given, signal),
    };
    // What each question is answered with is core's word.
    return (await answer({ ...given, question }, sites, this.planner, this.engine, this.store)) as Answers[Q['kind']];
  }

  private async other(person: Person, id: string, now: Date): Promise<Other | undefined> {
    const open = await this.rights.hold(person, id).catch((error: unknown) => {
      if (error instanceof ProblemException && error.getStatus() !== 403) return undefined;
      throw error;
    });
    if (!open) return undefined;
    const { definition, sources } = open;
    const subject = subjectOf(definition, await this.known.of(definition, sources, false));
    return { subject, binding: bound(definition, {}, now), sources };
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
        const [first] = (await this.answer(context, { kind: 'choices', parameter: id, search: '' }, signal)).values;
        started[id] = first ? [first.value] : [];
      }
    }
    return started;
  }
}

/** A prepared dataset as planning takes it. */
export const givenOf = ({ subject, binding, sources }: Prepared): Given => ({ subject, binding, kinds: kindsOf(sources) });

const kindsOf = (sources: ReadonlyMap<string, Source>) => Object.fromEntries([...sources].map(([id, { kind }]) => [id, kind]));

/** Sources do not meet before their stewards allow it; that is refused by name, before anything runs. */
function requireOneSource(definition: Definition, sources: ReadonlyMap<string, Source>): void {
  const read = sourcesOf(definition);
  if (read.length < 2) return;
  const names = read.map((id) => sources.get(id)?.name ?? 'a source that is gone');
  throw refused(422, 'sources-apart', `${listedWords(names)} may not meet in one dataset yet.`, {}, 'tables of one source');
}

const gone = (): never => {
  throw refused(422, 'source-gone', 'A source this dataset reads was removed.');
};

/** Which of the sources that steps read do not exist any more. */
export const missingSources = (steps: Definition['steps'], sources: ReadonlyMap<string, Source>): readonly string[] =>
  sourcesOf({ steps }).filter((id) => !sources.has(id));

const bound = (definition: Definition, values: GivenValues, now: Date) =>
  bindDefinition(definition, values, BigInt(now.getTime()) * 1_000n);
