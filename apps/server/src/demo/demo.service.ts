import type { OnApplicationBootstrap } from '@nestjs/common';
import { Inject, Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash } from '@node-rs/argon2';
import { Repository } from 'typeorm';
import type { Definition, DescribedRoutine, DescribedText } from '@cendra/core';
import { applyEdits, callStep, emptyDefinition, scriptStep, sqlStep, sqlText, tablesIn, takeTextOver, tokensOf } from '@cendra/core';
import { DatasetLifeService, DatasetListService, mintId } from '../datasets';
import { KeepingService } from '../kept-routines';
import { KeptTextsService } from '../kept-texts';
import { DEMO_PEOPLE, Person } from '../people';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';
import type { Source } from '../sources';
import { RoutinesService, SourcesService, TextsService } from '../sources';
import type { DemoCall } from './call-datasets';
import { ADMITTED, CALL_DATASETS } from './call-datasets';
import { DEMO_DATASETS } from './demo-datasets';
import { RECORDS } from './demo-dataset';
import { definitionOf, fieldsOf, tablesOf } from './demo-definition';
import { LinksService } from '../links';
import type { DemoKeptText } from './kept-texts';
import { KEPT_TEXTS } from './kept-texts';
import type { DemoText } from './text-datasets';
import { TEXT_DATASETS } from './text-datasets';

/** In demo mode: one sign-in per role, the cooperative's database as a source, and datasets to look at. Made once. */
@Injectable()
export class DemoService implements OnApplicationBootstrap {
  constructor(
    @InjectRepository(Person) private readonly people: Repository<Person>,
    private readonly sources: SourcesService,
    private readonly texts: TextsService,
    private readonly routines: RoutinesService,
    private readonly lists: DatasetListService,
    private readonly life: DatasetLifeService,
    private readonly shelf: KeptTextsService,
    private readonly keeping: KeepingService,
    private readonly links: LinksService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    if (!this.settings.demo || !this.settings.demoSource) return;
    const people = await this.ensurePeople();
    const steward = people.find((each) => each.role === 'steward');
    const analyst = people.find((each) => each.name === 'analyst');
    if (steward && analyst) await this.ensureSource(steward, analyst, this.settings.demoSource);
  }

  private async ensurePeople(): Promise<Person[]> {
    for (const { name, shownName, role, password } of DEMO_PEOPLE) {
      if (await this.people.existsBy({ name })) continue;
      await this.people.insert({ name, shownName, role, passwordHash: await hash(password) });
    }
    return this.people.find();
  }

  private async ensureSource(steward: Person, analyst: Person, demo: NonNullable<Settings['demoSource']>): Promise<void> {
    const name = 'Cooperative database';
    const address = { host: demo.host, port: demo.port };
    const known = (await this.sources.visibleTo(steward)).find((each) => each.name === name);
    if (known) {
      // The private cluster takes another free port when its old one is in use.
      if (!('port' in known.settings) || known.settings.port !== demo.port)
        await this.sources.change(known.id, { settings: address, secret: demo.password });
      return;
    }
    if ((await this.lists.list()).length > 0) return;
    const added = await this.sources.add({
      name,
      mark: 'CO',
      kind: 'postgresql',
      settings: { ...address, database: 'cooperative', user: 'cendra_read', tls: 'off' },
      secret: demo.password,
    });
    await this.sources.give(added.id, [analyst.id]);
    const source = await this.sources.admit(added, ADMITTED);
    await this.keeping.change(source, { user: 'cendra_keep', secret: demo.password, schema: 'kept', people: [] });
    await this.links.allow([RECORDS]);
    for (const each of KEPT_TEXTS) await this.keep(analyst, source, each);
    const made = new Map<string, { readonly id: string; readonly field: (column: string) => string }>();
    const other = (title: string) => made.get(title) ?? { id: '', field: () => '' };
    for (const each of TEXT_DATASETS) await this.life.begin(analyst, await this.ofText(source, each));
    for (const each of CALL_DATASETS) await this.life.begin(analyst, await this.ofCall(source, each));
    for (const dataset of DEMO_DATASETS) {
      const described = await this.described(source, tablesOf(dataset));
      if (!described) continue;
      const definition = definitionOf(dataset, source.id, described, other);
      const { id } = await this.life.begin(analyst, definition);
      made.set(dataset.title, { id, field: fieldsOf(definition.steps[0]) });
    }
  }

  private async keep(analyst: Person, source: Source, { versions: [first, ...later], ...said }: DemoKeptText): Promise<void> {
    let kept = await this.shelf.keep(analyst, { ...said, tags: [...said.tags], source: source.id, text: first });
    for (const text of later) kept = await this.shelf.change(analyst, kept, { text, version: kept.version });
  }

  /** A text with what the source says of it, as the bench takes it over. */
  private async ofText(source: Source, { title, description, text, script, startsAs = {}, pasted }: DemoText): Promise<Definition> {
    const step = (script ? scriptStep : sqlStep)(mintId, source.id, sqlText(text, []));
    const begun: Definition = { ...emptyDefinition(title), description, steps: [step], result: step.id };
    if (pasted) return begun;
    const described = await (script ? this.texts.describeScript(source, text, []) : this.texts.describe(source, text, []));
    const named = await this.described(source, script ? [] : tablesIn(tokensOf(text)).map((each) => each.table));
    const said = { ...(described as unknown as DescribedText), tables: [...(named?.values() ?? [])] };
    const taken = applyEdits(begun, takeTextOver(begun, step, text, said, mintId).edits);
    return { ...taken, parameters: taken.parameters.map((each) => ({ ...each, startsAs: startsAs[each.name] ?? [] })) };
  }

  private async ofCall(source: Source, { title, description, signature, result, given: values, called }: DemoCall): Promise<Definition> {
    const given = values.map((value) => ({ by: 'value', value }) as const);
    const described = await this.routines.describe(source, { signature, given, ...(result ? { result } : {}) });
    const begun: Definition = { ...emptyDefinition(title), description };
    const { step, parameters } = callStep(begun, mintId, source.id, described as unknown as DescribedRoutine, { result, given });
    const taking = { ...step, called, taken: step.fields.map((each) => each.id) };
    return { ...begun, steps: [taking], result: step.id, parameters };
  }

  /** The tables by name; undefined where one of them is not there. */
  private async described(source: Source, tables: readonly string[]) {
    const found = await Promise.all(
      [...new Set(tables)].map(async (table) => [table, await this.sources.describe(source, 'coop', table)] as const),
    );
    const known = found.flatMap(([table, described]) => (described ? [[table, described] as const] : []));
    return known.length === found.length ? new Map(known) : undefined;
  }
}
