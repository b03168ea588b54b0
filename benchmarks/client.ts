import { createWriteStream } from 'node:fs';
import { Agent, get } from 'node:http';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';

export interface Dataset {
  readonly id: string;
  readonly revision: number;
  readonly definition: {
    readonly title: string;
    readonly steps: readonly { readonly id: string; readonly fields: readonly { readonly id: string; readonly column: string }[] }[];
  };
}

interface Run {
  readonly id: string;
  readonly state: string;
  readonly result: { readonly id: string } | null;
}

/** The demo analyst, over HTTP and the event stream, as a browser would. */
export class Client {
  private readonly runs = new Map<string, Run>();
  private readonly many = new Agent({ keepAlive: true });
  private waiting: (() => void)[] = [];

  private constructor(
    private readonly address: string,
    private readonly headers: Record<string, string>,
  ) {}

  static async signIn(address: string): Promise<Client> {
    const response = await fetch(`${address}/api/sign-in`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'analyst', password: 'thistle-analyst' }),
    });
    const { csrf } = (await response.json()) as { csrf: string };
    const client = new Client(address, {
      cookie: (response.headers.get('set-cookie') ?? '').split(';')[0] ?? '',
      'x-cendra-csrf': csrf,
      'content-type': 'application/json',
    });
    client.listen().catch(() => undefined);
    return client;
  }

  async source(): Promise<string> {
    const [source] = await this.ask<{ id: string }[]>('GET', '/sources');
    return source?.id ?? '';
  }

  /** A dataset of the big table, all fields taken, under written conditions that all have to hold. */
  async readings(...conditions: string[]): Promise<Dataset> {
    const [source] = await this.ask<{ id: string }[]>('GET', '/sources');
    const dataset = await this.ask<Dataset>('POST', '/datasets', { source: source?.id, schema: 'coop', table: 'scale_readings' });
    const table = dataset.definition.steps[0];
    const step = {
      id: 'c',
      kind: 'criteria',
      name: '',
      off: false,
      inputs: [table?.id],
      head: 'every one',
      clauses: conditions.map((text, index) => ({ id: `x${index}`, kind: 'expression', off: false, expression: { text, refs: [] } })),
    };
    return this.edited(dataset, [
      { kind: 'set step', step: table?.id, property: 'taken', from: [], to: table?.fields.map((each) => each.id) },
      { kind: 'add step', step, at: { after: table?.id, before: null }, heirs: [], handedOver: { instead: table?.id } },
    ]);
  }

  /** A dataset of a small table, all fields taken. */
  async small(): Promise<Dataset> {
    const [source] = await this.ask<{ id: string }[]>('GET', '/sources');
    const dataset = await this.ask<Dataset>('POST', '/datasets', { source: source?.id, schema: 'coop', table: 'apiaries' });
    const table = dataset.definition.steps[0];
    const taken = table?.fields.map((each) => each.id);
    return this.edited(dataset, [{ kind: 'set step', step: table?.id, property: 'taken', from: [], to: taken }]);
  }

  /** A dataset of the big table with its key and calculated fields. */
  async calculated(fields: readonly { readonly name: string; readonly expression: string }[]): Promise<Dataset> {
    const [source] = await this.ask<{ id: string }[]>('GET', '/sources');
    const dataset = await this.ask<Dataset>('POST', '/datasets', { source: source?.id, schema: 'coop', table: 'scale_readings' });
    const table = dataset.definition.steps[0];
    const step = {
      id: 'k',
      kind: 'calculate',
      name: '',
      off: false,
      inputs: [table?.id],
      fields: fields.map(({ name, expression }) => ({ id: name, name, expression: { text: expression, refs: [] } })),
    };
    const key = table?.fields.find((each) => each.column === 'reading_no')?.id;
    return this.edited(dataset, [
      { kind: 'set step', step: table?.id, property: 'taken', from: [], to: [key] },
      { kind: 'add step', step, at: { after: table?.id, before: null }, heirs: [], handedOver: { instead: table?.id } },
    ]);
  }

  /** Asks a question about the dataset's last step. */
  answer(dataset: Dataset, question: object): Promise<unknown> {
    const step = dataset.definition.steps.at(-1)?.id;
    return this.ask('POST', '/answers', { dataset: dataset.id, revision: dataset.revision, values: {}, question: { step, ...question } });
  }

  /** Runs and reads the first page; gives the result's id as soon as there are rows. */
  async run(dataset: Dataset, size: 'head' | 'full', slot = 'bench'): Promise<string> {
    const { id } = await this.ask<Run>('POST', '/runs', {
      dataset: dataset.id,
      revision: dataset.revision,
      step: dataset.definition.steps.at(-1)?.id,
      size,
      values: {},
      slot,
    });
    for (;;) {
      const run = this.runs.get(id);
      if (run?.state === 'failed' || run?.state === 'cancelled') throw new Error(JSON.stringify(run));
      if (run?.result) {
        await this.page(run.result.id, 0, 200, '');
        return run.result.id;
      }
      await this.news();
    }
  }

  /** Waits until the counts of the last run are done too, so that tries do not disturb one another. */
  async quiet(): Promise<void> {
    while ([...this.runs.values()].some((run) => run.state === 'waiting' || run.state === 'running')) await this.news();
  }

  async page(result: string, offset: number, limit: number, sort: string): Promise<void> {
    await this.ask('GET', `/results/${result}/rows?offset=${offset}&limit=${limit}${sort === '' ? '' : `&sort=${sort}`}`);
  }

  /** A page whose bytes are only taken: readers that stand for two hundred browsers must not be slower than what is measured. */
  taken(result: string, offset: number, limit: number): Promise<void> {
    const url = `${this.address}/api/results/${result}/rows?offset=${offset}&limit=${limit}`;
    return new Promise((resolve, reject) => {
      get(url, { headers: { cookie: this.headers.cookie }, agent: this.many }, (response) => {
        response.resume().on('end', resolve).on('error', reject);
      }).on('error', reject);
    });
  }

  /** The list everybody begins with. */
  async datasets(): Promise<void> {
    await this.ask('GET', '/datasets');
  }

  /** The dataset after further edits. */
  async edited({ id, revision }: Dataset, edits: readonly object[]): Promise<Dataset> {
    await this.ask('POST', `/datasets/${id}/edits`, { editId: `bench-${performance.now()}`, baseRevision: revision, edits });
    return this.ask<Dataset>('GET', `/datasets/${id}`);
  }

  /** Makes the proof of a result and reads its first page. */
  async proof(result: string, { id, revision }: Dataset): Promise<void> {
    const { key } = await this.ask<{ key: string }>('POST', `/results/${result}/proofs`, { dataset: id, revision });
    await this.ask('GET', `/results/${result}/proofs/${key}/lines?offset=0&limit=200`);
  }

  /** The lines of a result's proof as a PDF. */
  async paper(result: string, { id, revision }: Dataset, file: string): Promise<void> {
    const body = JSON.stringify({ dataset: id, revision, format: 'pdf', title: 'Readings' });
    const response = await fetch(`${this.address}/api/results/${result}/paper`, { method: 'POST', headers: this.headers, body });
    if (!response.ok || !response.body) throw new Error(`the paper was not made: ${await response.text()}`);
    await pipeline(Readable.fromWeb(response.body as ReadableStream), createWriteStream(file));
  }

  async sortField(result: string, name: string): Promise<string> {
    const { columns } = await this.ask<{ columns: { id: string; name: string }[] }>('GET', `/results/${result}`);
    return `${columns.find((each) => each.name === name)?.id}:desc`;
  }

  async download(result: string, file: string): Promise<void> {
    const response = await fetch(`${this.address}/api/results/${result}/file?format=csv`, { headers: this.headers });
    if (!response.body) throw new Error('the take-away has no body');
    await pipeline(Readable.fromWeb(response.body as ReadableStream), createWriteStream(file));
  }

  /** Settles when something is heard of any run. */
  private news(): Promise<void> {
    return new Promise((resolve) => this.waiting.push(resolve));
  }

  private async listen(): Promise<void> {
    const response = await fetch(`${this.address}/api/events`, { headers: this.headers });
    let rest = '';
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      const events = (rest + new TextDecoder().decode(chunk)).split('\n\n');
      rest = events.pop() ?? '';
      for (const event of events) {
        const run = /^event: run\ndata: (.*)$/.exec(event)?.[1];
        if (run === undefined) continue;
        const heard = JSON.parse(run) as Run;
        this.runs.set(heard.id, heard);
        for (const each of this.waiting.splice(0)) each();
      }
    }
  }

  async ask<T>(method: string, path: string, body?: unknown): Promise<T> {
    const response = await fetch(`${this.address}/api${path}`, {
      method,
      headers: this.headers,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
    return (await response.json()) as T;
  }
}
