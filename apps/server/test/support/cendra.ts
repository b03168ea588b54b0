import { execFileSync } from 'node:child_process';
import type { Inspection, GivenValues, Definition, ClauseCounts } from '@cendra/core';
import type { StepCountDto } from '../../src/runs/run.dto';
import type { RunningServer, ServerOptions } from '../../../../scripts/setup/server';
import { startServer } from '../../../../scripts/setup/server';
import { ensureOwnDatabase } from '../../../../scripts/setup/databases';
import { startedOnce } from '../../../../scripts/setup/first-start';
import { cluster, folderFor, testFolder, unique, withSuperuser } from './cluster';

export interface Answer<T = Record<string, unknown>> {
  readonly status: number;
  readonly body: T;
  readonly text: string;
  readonly headers: Headers;
}

export interface ProblemBody {
  readonly type: string;
  readonly title: string;
  readonly detail?: string;
  readonly problems: readonly {
    readonly code: string;
    readonly message: string;
    readonly expected?: string;
    readonly place: Record<string, unknown>;
  }[];
}

/** A signed-in browser, as far as HTTP goes. */
export class Person {
  constructor(
    readonly address: () => string,
    readonly id: string,
    readonly cookie: string,
    readonly csrf: string,
  ) {}

  async ask<T = Record<string, unknown>>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const json: Record<string, string> = body === undefined ? {} : { 'content-type': 'application/json' };
    const response = await fetch(`${this.address()}/api${path}`, {
      method,
      headers: { cookie: this.cookie, 'x-cendra-csrf': this.csrf, ...json, ...headers },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    const isJson = response.headers.get('content-type')?.includes('json') ?? false;
    return { status: response.status, body: (isJson && text !== '' ? JSON.parse(text) : {}) as T, text, headers: response.headers };
  }

  /** As `ask`, for answers that must succeed. */
  async get<T>(path: string): Promise<T> {
    const answer = await this.ask<T>('GET', path);
    if (answer.status >= 300) throw new Error(`GET ${path}: ${answer.status} ${answer.text}`);
    return answer.body;
  }

  async post<T>(path: string, body?: unknown): Promise<T> {
    const answer = await this.ask<T>('POST', path, body);
    if (answer.status >= 300) throw new Error(`POST ${path}: ${answer.status} ${answer.text}`);
    return answer.body;
  }
}

export interface RunBody {
  readonly id: string;
  readonly state: string;
  readonly inspection: string | null;
  readonly counts: readonly StepCountDto[] | null;
  readonly clauses: ClauseCounts | null;
  readonly problems: readonly { readonly code: string }[];
  readonly stages?: readonly { readonly said?: readonly { readonly severity: string; readonly text: string }[] }[] | null;
  readonly result: ResultBody | null;
  readonly firstRows: ResultBody | null;
  readonly values: GivenValues;
}

interface ResultBody {
  readonly id: string;
  readonly rows: string;
  readonly complete: boolean;
  readonly cut: string | null;
  readonly columns: readonly { id: string; name: string }[];
  readonly misfits: Record<string, number>;
}

export interface DatasetBody {
  readonly id: string;
  readonly revision: number;
  readonly definition: Definition;
  readonly withoutValues: boolean;
}

/** What is said of a PostgreSQL source over the wire: the demo's database, or as told. */
export const postgresqlAt = (settings: object = {}, secret = cluster.demoPassword) => ({
  kind: 'postgresql',
  settings: { host: '127.0.0.1', port: cluster.port, database: 'cooperative', user: 'cendra_read', tls: 'off', ...settings },
  secret,
});

/** The engine processes a server has started. */
export const enginesOf = (pid: number): readonly number[] =>
  execFileSync('ps', ['-o', 'pid=,args=', '--ppid', String(pid)], { encoding: 'utf8' })
    .split('\n')
    .filter((each) => each.includes('engine/process.js'))
    .map((each) => Number(each.trim().split(' ')[0]));

/** A Cendra of its own: server, database and data folder, on the test cluster. */
export class Cendra {
  private constructor(
    private server: RunningServer,
    readonly database: string,
    private readonly options: ServerOptions,
  ) {}

  /** `through` is a port by which it reaches its own database. */
  static async start({ through, limits, ...options }: Partial<ServerOptions> & { readonly through?: number } = {}): Promise<Cendra> {
    const database = unique('cendra');
    const demoPassword = 'demoPassword' in options ? options.demoPassword : cluster.demoPassword;
    const begun =
      demoPassword === undefined
        ? { database: await ensureOwnDatabase(cluster, database), dataFolder: folderFor('server') }
        : await startedOnce(cluster, testFolder, database);
    const all: ServerOptions = {
      cluster,
      demoPassword,
      logLevel: 'error',
      ...begun,
      // What is slow only because the tests' machine is has to be done all the same.
      limits: { planningTime: 60_000, connectTime: 30_000, engineSilence: 60_000, ...limits },
      ...(through === undefined ? {} : { database: begun.database.replace(`:${cluster.port}/`, `:${through}/`) }),
      ...options,
    };
    return new Cendra(await startServer(all), database, all);
  }

  get address(): string {
    return this.server.address;
  }

  get dataFolder(): string {
    return this.options.dataFolder;
  }

  get pid(): number {
    return this.server.process.pid ?? 0;
  }

  async signIn(name: string, password = `thistle-${name}`): Promise<Person> {
    const response = await fetch(`${this.address}/api/sign-in`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, password }),
    });
    if (response.status !== 200) throw new Error(`sign-in: ${response.status} ${await response.text()}`);
    const { id, csrf } = (await response.json()) as { id: string; csrf: string };
    return new Person(() => this.address, id, (response.headers.get('set-cookie') ?? '').split(';')[0] ?? '', csrf);
  }

  /** Ends the server at once, as a power cut would, and starts it again on the same data. */
  async killAndStart(): Promise<void> {
    const ended = new Promise((resolve) => this.server.process.once('exit', resolve));
    this.server.process.kill('SIGKILL');
    await ended;
    this.server = await startServer(this.options);
  }

  async stop(): Promise<void> {
    await this.server.stop();
    await withSuperuser('postgres', (client) => client.query(`drop database ${this.database} with (force)`));
  }
}

/** Waits until a question gives something; fails with its name when it never does, which is before the test's own time is over. */
export async function eventually<T>(what: string, ask: () => Promise<T | undefined | false>, within = 200_000): Promise<T> {
  const until = Date.now() + within;
  for (;;) {
    const answer = await ask();
    if (answer !== undefined && answer !== false) return answer;
    if (Date.now() > until) throw new Error(`it never came true: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

/** Follows a run to its end. */
export function ended(person: Person, id: string): Promise<RunBody> {
  return eventually('the run ends', async () => {
    const run = await person.get<RunBody>(`/runs/${id}`);
    return ['waiting', 'running'].includes(run.state) ? undefined : run;
  });
}

/** Starts a full run of a dataset's first step and does not wait for it. */
export const startFull = (person: Person, dataset: DatasetBody) =>
  person.post<RunBody>('/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: dataset.definition.steps[0]?.id,
    size: 'full',
    values: {},
    slot: unique('slot'),
  });

/** Starts a run of a dataset's step (its last one) and follows it to its end. */
export async function run(
  person: Person,
  dataset: DatasetBody,
  size: 'head' | 'full',
  values: GivenValues = {},
  step?: string,
  inspection?: Inspection,
): Promise<RunBody> {
  const last = dataset.definition.steps[dataset.definition.steps.length - 1]?.id;
  const started = await person.post<RunBody>('/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: step ?? last,
    size,
    values,
    slot: 'test',
    ...(inspection ? { inspection } : {}),
  });
  return ended(person, started.id);
}

export async function rowsOf(person: Person, result: string, query = 'offset=0&limit=500'): Promise<readonly (readonly unknown[])[]> {
  return person.get(`/results/${result}/rows?${query}`);
}
