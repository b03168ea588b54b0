import type { TempState, ToldStatement } from '@cendra/core';
import { LIMITS } from '../limits';
import type { SourceScript } from '../sources';

/** A script's session at its source, with what was told of the statements that stand in it. */
export interface KeptSession {
  readonly script: SourceScript;
  /** What the session depends on besides its statements: where it is, as whom, and what tells rows apart. */
  readonly like: string;
  /** Each statement that stands in it: what ran, as it was sent, what became of it, and how long it is to tell. */
  readonly ran: { readonly sent: string; readonly told: ToldStatement; readonly characters: number }[];
  /** The temp tables as they stand there now. */
  states: Map<string, TempState>;
}

interface Held {
  readonly session: KeptSession;
  timer: NodeJS.Timeout;
  until: Date;
}

/**
 * Sessions of scripts while nothing runs in them, each for a stated time after its last statement. Who takes one out has
 * it alone, and puts it back or closes it.
 */
export class KeptSessions {
  private readonly held = new Map<string, Held>();

  get count(): number {
    return this.held.size;
  }

  take(key: string): KeptSession | undefined {
    const found = this.held.get(key);
    if (!found) return undefined;
    clearTimeout(found.timer);
    this.held.delete(key);
    return found.session;
  }

  /** Kept from now on; the moment it is ended, unless it is taken before. */
  put(key: string, session: KeptSession): Date {
    this.end(key);
    for (const oldest of this.held.keys()) {
      if (this.held.size < LIMITS.scriptSessions.value) break;
      this.end(oldest);
    }
    const until = new Date(Date.now() + LIMITS.scriptSession.value);
    const timer = setTimeout(() => this.end(key), LIMITS.scriptSession.value);
    timer.unref();
    this.held.set(key, { session, timer, until });
    return until;
  }

  /** Whether there was one. */
  end(key: string): boolean {
    const session = this.take(key);
    void session?.script.close();
    return session !== undefined;
  }

  async endAll(): Promise<void> {
    const all = [...this.held.keys()].flatMap((key) => this.take(key) ?? []);
    await Promise.all(all.map(({ script }) => script.close()));
  }
}
