/** So many wrong passwords of a name from one address are taken without a pause. */
const FREE = 5;
/** The pause after the next one, doubled with each further one, in ms. */
const FIRST_PAUSE = 1_000;
const LONGEST_PAUSE = 300_000;
/** Remembered at most; those whose last try is longest ago are forgotten first. */
const MOST = 10_000;

interface Tries {
  readonly wrong: number;
  /** When the next one is taken. */
  readonly next: number;
}

/**
 * Wrong passwords slow down who tries them: the same name from the same address. Others at that address, and the person
 * of that name elsewhere, sign in as ever.
 */
export class SignInTries {
  private readonly tries = new Map<string, Tries>();

  constructor(private readonly time: () => number = Date.now) {}

  /** How long this name has to wait at this address, in ms; 0 when it may try. */
  wait(name: string, address: string): number {
    return Math.max(0, (this.tries.get(keyOf(name, address))?.next ?? 0) - this.time());
  }

  /** A try counts as wrong until it turns out to be right, so that many at once are many. */
  begun(name: string, address: string): void {
    const key = keyOf(name, address);
    const wrong = (this.tries.get(key)?.wrong ?? 0) + 1;
    const pause = wrong < FREE ? 0 : Math.min(LONGEST_PAUSE, FIRST_PAUSE * 2 ** (wrong - FREE));
    this.tries.delete(key);
    this.tries.set(key, { wrong, next: this.time() + pause });
    const [oldest] = this.tries.keys();
    if (this.tries.size > MOST && oldest !== undefined) this.tries.delete(oldest);
  }

  succeeded(name: string, address: string): void {
    this.tries.delete(keyOf(name, address));
  }
}

const keyOf = (name: string, address: string) => JSON.stringify([name.toLowerCase(), address]);
