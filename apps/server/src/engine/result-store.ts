import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { link, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';

/** Where the engine spills what does not fit its memory. */
export const SPILL = 'spill';

/**
 * Where results lie: a folder per result with the parts of its rows and sorted views, and a folder per running run that
 * vanishes with it. Everything else speaks of handles; paths are made here only.
 */
export class ResultStore {
  readonly resultsFolder: string;
  private readonly runsFolder: string;

  constructor(dataFolder: string) {
    this.resultsFolder = join(dataFolder, 'results');
    this.runsFolder = join(dataFolder, 'runs');
  }

  /** Clears what an earlier process left behind; results without a row in the database go too. */
  async sweep(known: ReadonlySet<string>): Promise<void> {
    await rm(this.runsFolder, { recursive: true, force: true });
    await mkdir(this.runsFolder, { recursive: true, mode: 0o700 });
    await mkdir(this.resultsFolder, { recursive: true, mode: 0o700 });
    for (const name of await readdir(this.resultsFolder)) {
      if (!known.has(name)) await rm(join(this.resultsFolder, name), { recursive: true, force: true });
    }
  }

  /**
   * What a fault left while the server went on: files that were being made, folders of results nobody knows and of runs
   * that are over. Whatever is younger than `age` ms may still be in use.
   */
  async sweepLeft(known: ReadonlySet<string>, age: number): Promise<void> {
    const before = Date.now() - age;
    const old = (path: string) =>
      stat(path).then(
        (each) => each.mtimeMs < before,
        () => false,
      );
    for (const run of await readdir(this.runsFolder)) if (await old(join(this.runsFolder, run))) await this.closeRun(run);
    // The engine's own folder for what it spills lies among the results.
    for (const result of (await readdir(this.resultsFolder)).filter((each) => each !== SPILL)) {
      if (!known.has(result)) {
        if (await old(this.folder(result))) await this.remove(result);
        continue;
      }
      const made = (await readdir(this.folder(result)).catch(() => [])).filter((each) => each.startsWith('making-'));
      for (const name of made) if (await old(this.file(result, name))) await this.discard(this.file(result, name));
    }
  }

  async openRun(run: string): Promise<string> {
    const folder = join(this.runsFolder, run);
    await mkdir(folder, { recursive: true, mode: 0o700 });
    return folder;
  }

  async closeRun(run: string): Promise<void> {
    await rm(join(this.runsFolder, run), { recursive: true, force: true });
  }

  /** Makes a folder of parts that a run left a result. The move is atomic: a result is whole or absent. */
  async keep(result: string, parts: string): Promise<void> {
    await mkdir(join(this.resultsFolder, result), { recursive: true, mode: 0o700 });
    await this.whole(result, () => rename(parts, this.rows(result)));
  }

  /** Makes one part of a run's rows a result besides, which takes no room of its own; the run keeps it. */
  async keepPart(result: string, part: string): Promise<void> {
    const folder = this.rows(result);
    await mkdir(folder, { recursive: true, mode: 0o700 });
    await this.whole(result, () => link(part, join(folder, basename(part))));
  }

  /** Puts into a result's folder what makes it whole; of one that cannot be put there no folder stays. */
  private async whole(result: string, put: () => Promise<void>): Promise<void> {
    try {
      await put();
    } catch (error) {
      await this.remove(result).catch(() => undefined);
      throw error;
    }
  }

  /** The folder of a result's parts. */
  rows(result: string): string {
    return join(this.resultsFolder, result, 'rows');
  }

  file(result: string, name: string): string {
    return join(this.resultsFolder, result, name);
  }

  /** A file of its own for what is being made; what becomes of it is put in its place or discarded. */
  making(result: string, format = 'parquet'): string {
    return this.file(result, `making-${randomUUID()}.${format}`);
  }

  folder(result: string): string {
    return join(this.resultsFolder, result);
  }

  /** Puts a finished file in its place; it is whole or absent. */
  async replace(made: string, place: string): Promise<void> {
    await rename(made, place);
  }

  async discard(file: string): Promise<void> {
    await rm(file, { force: true });
  }

  /** Keeps only the newest files of a result whose names begin alike. */
  async prune(result: string, begins: string, most: number): Promise<void> {
    const names = (await readdir(this.folder(result))).filter((each) => each.startsWith(begins));
    const aged = await Promise.all(names.map(async (name) => ({ name, at: (await stat(this.file(result, name))).mtimeMs })));
    for (const { name } of aged.toSorted((a, b) => b.at - a.at).slice(most)) await this.discard(this.file(result, name));
  }

  has(file: string): boolean {
    return existsSync(file);
  }

  async remove(result: string): Promise<void> {
    await rm(join(this.resultsFolder, result), { recursive: true, force: true });
  }

  /** Everything a result takes on disk: its rows, sorted views, proofs. */
  sizeOf(result: string): Promise<number> {
    return sizeIn(this.folder(result));
  }

  /** What is on disk, in bytes by kind. */
  async usage(): Promise<Readonly<Record<StoredKind, number>>> {
    const sums = { rows: 0, sorted: 0, proofs: 0, 'under way': await sizeIn(this.runsFolder) };
    for (const result of await readdir(this.resultsFolder).catch(() => []))
      for (const name of await readdir(this.folder(result)).catch(() => [])) sums[kindOf(name)] += await sizeIn(this.file(result, name));
    return sums;
  }
}

export type StoredKind = 'rows' | 'sorted' | 'proofs' | 'under way';

function kindOf(name: string): StoredKind {
  if (name === 'rows') return 'rows';
  return name.startsWith('sorted-') ? 'sorted' : name.startsWith('proof-') ? 'proofs' : 'under way';
}

async function sizeIn(path: string): Promise<number> {
  const own = await stat(path).catch(() => undefined);
  if (!own?.isDirectory()) return own?.size ?? 0;
  const names = await readdir(path, { recursive: true }).catch(() => []);
  const sizes = await Promise.all(
    names.map((name) =>
      stat(join(path, name)).then(
        (each) => (each.isFile() ? each.size : 0),
        () => 0,
      ),
    ),
  );
  return sizes.reduce((sum, each) => sum + each, 0);
}
