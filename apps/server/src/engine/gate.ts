/** Lets at most so many pass at once per key; others wait in order. */
export class Gate {
  private readonly inside = new Map<string, number>();
  private holders = 0;
  private readonly waiting: { readonly keys: ReadonlyMap<string, number>; enter(): void }[] = [];

  /** Waits until every key has room, then holds a place in each until the returned function is called. */
  async enter(keys: ReadonlyMap<string, number>, signal: AbortSignal): Promise<() => void> {
    if (!this.hasRoom(keys)) {
      await new Promise<void>((resolve, reject) => {
        const entry = { keys, enter: resolve };
        this.waiting.push(entry);
        const leave = () => {
          const at = this.waiting.indexOf(entry);
          if (at >= 0) this.waiting.splice(at, 1);
          reject(signal.reason as Error);
        };
        if (signal.aborted) leave();
        else signal.addEventListener('abort', leave, { once: true });
      });
    } else this.take(keys, 1);
    return this.leaving(keys);
  }

  /** Enters at once; undefined where there is no room at this moment. */
  tryEnter(keys: ReadonlyMap<string, number>): (() => void) | undefined {
    if (!this.hasRoom(keys)) return undefined;
    this.take(keys, 1);
    return this.leaving(keys);
  }

  /** How many have passed and not left. */
  get held(): number {
    return this.holders;
  }

  /** How many wait to pass. */
  get queued(): number {
    return this.waiting.length;
  }

  private leaving(keys: ReadonlyMap<string, number>): () => void {
    let held = true;
    return () => {
      if (!held) return;
      held = false;
      this.take(keys, -1);
      this.letIn();
    };
  }

  private letIn(): void {
    for (const entry of [...this.waiting]) {
      if (!this.hasRoom(entry.keys)) continue;
      this.waiting.splice(this.waiting.indexOf(entry), 1);
      this.take(entry.keys, 1);
      entry.enter();
    }
  }

  private hasRoom(keys: ReadonlyMap<string, number>): boolean {
    return [...keys].every(([key, most]) => (this.inside.get(key) ?? 0) < most);
  }

  private take(keys: ReadonlyMap<string, number>, change: number): void {
    this.holders += change;
    for (const key of keys.keys()) this.inside.set(key, (this.inside.get(key) ?? 0) + change);
  }
}
