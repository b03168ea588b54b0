import { Injectable } from '@nestjs/common';

/** What was asked longer ago than this, in ms, is asked again: rights may run out, or change elsewhere than in this process. */
const OLDEST = 1_000;

/**
 * Who somebody is and what they hold is asked with every request and every event, which come in bursts. An answer stands
 * for a moment, and only until this process does something to sessions, grants or sources: then the clock moves on, and
 * everything is asked again.
 */
@Injectable()
export class RightsClock {
  private answers = new Map<string, Promise<unknown>>();
  private since = 0;
  private readonly listening = new Set<() => void>();

  /** The answer under this key, if it was asked since rights changed last and just now; else what `ask` gives. */
  recall<T>(key: string, ask: () => Promise<T>): Promise<T> {
    if (Date.now() - this.since > OLDEST) this.forget();
    // Who still waits for an older answer puts it where nobody looks any more.
    const { answers } = this;
    const known = answers.get(key) as Promise<T> | undefined;
    if (known) return known;
    const answer = ask();
    answers.set(key, answer);
    answer.catch(() => answers.delete(key));
    return answer;
  }

  /** Called after everything that changes who holds what. */
  moveOn(): void {
    this.forget();
    for (const each of this.listening) each();
  }

  /** Calls back after each change, for what goes on meanwhile; gives the way to stop that. */
  onMoved(call: () => void): () => void {
    this.listening.add(call);
    return () => this.listening.delete(call);
  }

  private forget(): void {
    this.answers = new Map();
    this.since = Date.now();
  }
}
