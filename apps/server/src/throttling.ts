import type { ThrottlerModuleOptions, ThrottlerStorage } from '@nestjs/throttler';
import { SESSION_COOKIE } from './people';

const WINDOW = 60_000;
/** Of one session, and so of one browser. */
const OF_A_SESSION = 6_000;
/** Of one address, behind which a whole office may sit. */
const OF_AN_ADDRESS = 60_000;
const MOST_WINDOWS = 100_000;

/**
 * Requests counted in windows of a minute. The usual store keeps a moment for every request and looks through them at
 * each, which at some thousand a minute is most of the work of a small one.
 */
class Windows implements ThrottlerStorage {
  private readonly windows = new Map<string, { hits: number; readonly until: number }>();

  increment(key: string, ttl: number, limit: number): ReturnType<ThrottlerStorage['increment']> {
    const now = Date.now();
    const known = this.windows.get(key);
    const window = known && known.until > now ? known : this.begin(key, now + ttl);
    window.hits++;
    const timeToExpire = Math.ceil((window.until - now) / 1000);
    const isBlocked = window.hits > limit;
    return Promise.resolve({ totalHits: window.hits, timeToExpire, isBlocked, timeToBlockExpire: isBlocked ? timeToExpire : 0 });
  }

  /** Windows are in the order they began, so those that are over come first. */
  private begin(key: string, until: number): { hits: number; readonly until: number } {
    const now = Date.now();
    this.windows.delete(key);
    for (const [old, each] of this.windows) {
      if (each.until > now && this.windows.size < MOST_WINDOWS) break;
      this.windows.delete(old);
    }
    const window = { hits: 0, until };
    this.windows.set(key, window);
    return window;
  }
}

interface Asking {
  readonly ip?: string;
  readonly cookies?: Readonly<Record<string, string | undefined>>;
}

const addressOf = ({ ip }: Asking) => ip ?? '';

/** So many requests of one kind in a minute; more are refused with 429. */
export const throttling = (): ThrottlerModuleOptions => ({
  storage: new Windows(),
  throttlers: [
    {
      name: 'session',
      ttl: WINDOW,
      limit: OF_A_SESSION,
      getTracker: (request: Asking) => `${request.cookies?.[SESSION_COOKIE] ?? ''} ${addressOf(request)}`,
    },
    { name: 'address', ttl: WINDOW, limit: OF_AN_ADDRESS, getTracker: addressOf },
  ],
});
