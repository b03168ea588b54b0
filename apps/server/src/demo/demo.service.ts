import type { OnApplicationBootstrap } from '@nestjs/common';
import { Inject, Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash } from '@node-rs/argon2';
import { Repository } from 'typeorm';
import { addStepAfter, applyEdits, emptyDefinition } from '@cendra/core';
import type { Step } from '@cendra/core';
import { DatasetsService, mintId, tableStep } from '../datasets';
import { DEMO_PEOPLE, Person } from '../people';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';
import { SourcesService } from '../sources';

/** In demo mode: one sign-in per role, the cooperative's database as a source, and datasets to look at. Made once. */
@Injectable()
export class DemoService implements OnApplicationBootstrap {
  constructor(
    @InjectRepository(Person) private readonly people: Repository<Person>,
    private readonly sources: SourcesService,
    private readonly datasets: DatasetsService,
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
      if (known.settings.port !== demo.port) await this.sources.change(known.id, { ...address, password: demo.password });
      return;
    }
    if ((await this.datasets.list()).length > 0) return;
    const source = await this.sources.add({
      name,
      mark: 'CO',
      ...address,
      database: 'cooperative',
      user: 'cendra_read',
      tls: 'off',
      password: demo.password,
    });
    await this.sources.give(source.id, [analyst.id]);
    const described = await this.sources.describe(source, 'coop', 'harvests');
    if (!described) return;
    const table = tableStep(source.id, described);
    await this.datasets.begin(
      analyst,
      applyEdits({ ...emptyDefinition('Harvests worth delivering'), steps: [taking(table, TAKEN)], parameters: [MIN_KILOS] }, [
        addStepAfter({ ...emptyDefinition(''), steps: [table] }, table.id, atLeast(table)),
      ]),
    );
  }
}

const TAKEN = ['id', 'apiary_code', 'picked_on', 'kilos', 'moisture', 'floral_source', 'grade'];

const MIN_KILOS = {
  id: 'min-kilos',
  name: 'min_kilos',
  type: 'decimal',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: ['5'],
  hint: 'Harvests below this are kept by the member.',
} as const;

function taking(step: Step, columns: readonly string[]): Step {
  if (step.kind !== 'table') return step;
  return { ...step, taken: columns.flatMap((column) => step.fields.find((each) => each.column === column)?.id ?? []) };
}

function atLeast(table: Step): Step {
  const field = table.kind === 'table' ? (table.fields.find((each) => each.column === 'kilos')?.id ?? '') : '';
  return {
    id: mintId(),
    kind: 'criteria',
    name: '',
    off: false,
    inputs: [table.id],
    head: 'every one',
    clauses: [
      {
        id: mintId(),
        kind: 'condition',
        off: false,
        field,
        operator: 'at least',
        operands: [{ kind: 'parameter', id: MIN_KILOS.id }],
        andNulls: false,
      },
    ],
  };
}
