import { createHash, randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { ProofRelations, Statement } from '@cendra/core';
import { Engine, Gate, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import type { Person } from '../people';
import { Recent } from '../recent';
import { RUNS_ENGINE } from '../runs/engines';
import type { Result } from '../runs/result.entity';

/** Nothing that is asked of stored rows is bound to a moment or a parameter. */
export const UNBOUND = { bound: new Map(), now: 0n };
/** What was used longest ago is forgotten; whoever still asks for it makes it again. */
const MOST_KNOWN = 500;

/** The stored rows of results as statements of the engine ask about them, in turns. */
@Injectable()
export class ResultRows {
  private readonly gate = new Gate();
  /** What was looked at in a result's rows, such as what stands beside one another, by result and statement. */
  private readonly few = new Recent<Few>(MOST_KNOWN);

  constructor(
    private readonly store: ResultStore,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
  ) {}

  /** How many are asked about now. */
  get atWork(): number {
    return this.gate.held;
  }

  /** One person's proofs do not keep everybody else's waiting. */
  async inTurn<T>(person: Person, signal: AbortSignal, work: () => Promise<T>): Promise<T> {
    const keys = new Map([
      ['all', LIMITS.proofsAtOnce.value],
      [`person ${person.id}`, LIMITS.proofsPerPerson.value],
    ]);
    const leave = await this.gate.enter(keys, signal);
    try {
      return await work();
    } finally {
      leave();
    }
  }

  /** The few rows of a statement over a result, asked once. */
  async looked(person: Person, result: Result, statement: Statement, signal: AbortSignal): Promise<Few> {
    const known = `${result.id}/${keyOf(statement)}`;
    const found = this.few.get(known) ?? (await this.inTurn(person, signal, () => this.ask(result, statement, signal)));
    this.few.put(known, found, 1);
    return found;
  }

  ask(result: Result, statement: Statement, signal: AbortSignal, beside: readonly Landed[] = []): Promise<Few> {
    return this.inRun(result, signal, async (run) => {
      const landed = [{ handle: 'rows', file: this.store.rows(result.id), numbered: 'line_row' }, ...beside];
      const values = statement.values.map((each) => each.value);
      const rows = await this.engine.do({ work: 'rows', run, landed, text: statement.text, values }, signal);
      return rows.map((cells) => cells.map((cell) => (typeof cell === 'string' ? cell : null)));
    });
  }

  async inRun<T>(result: Result, signal: AbortSignal, work: (run: string) => Promise<T>): Promise<T> {
    const run = randomUUID();
    try {
      await this.engine.do({ work: 'open', run, folder: this.store.folder(result.id) }, signal);
      return await work(run);
    } finally {
      await this.engine.do({ work: 'close', run }).catch(() => undefined);
    }
  }
}

export type Few = readonly (readonly (string | null)[])[];

export interface Landed {
  readonly handle: string;
  readonly file: string;
  readonly numbered?: string;
}

/** Proofs that ask the same of a result are one, whatever their fields are called. */
export function keyOf(relations: ProofRelations | Statement): string {
  return createHash('sha256')
    .update(JSON.stringify(relations, (_key, value: unknown) => (typeof value === 'bigint' ? String(value) : value)))
    .digest('hex')
    .slice(0, 24);
}
