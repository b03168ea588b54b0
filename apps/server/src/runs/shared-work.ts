interface Work<T> {
  readonly done: Promise<T>;
  readonly abort: AbortController;
  waiting: number;
}

/** Work that several wait for is done once, and stopped when the last of them has gone. */
export class SharedWork<T> {
  private readonly under = new Map<string, Work<T>>();

  do(key: string, signal: AbortSignal, start: (signal: AbortSignal) => Promise<T>): Promise<T> {
    const work = this.under.get(key) ?? this.begin(key, start);
    work.waiting++;
    const leave = () => {
      if (--work.waiting === 0) work.abort.abort(signal.reason);
    };
    if (signal.aborted) leave();
    else signal.addEventListener('abort', leave, { once: true });
    return work.done.finally(() => signal.removeEventListener('abort', leave));
  }

  has(key: string): boolean {
    return this.under.has(key);
  }

  private begin(key: string, start: (signal: AbortSignal) => Promise<T>): Work<T> {
    const abort = new AbortController();
    const done = start(abort.signal).finally(() => {
      // Somebody may have begun it anew after all had left.
      if (this.under.get(key) === work) this.under.delete(key);
    });
    const work: Work<T> = { done, abort, waiting: 0 };
    abort.signal.addEventListener('abort', () => this.under.delete(key), { once: true });
    this.under.set(key, work);
    return work;
  }
}
