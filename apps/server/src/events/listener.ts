import type { CendraEvent } from './events.service';

/** What a listener is told through. */
export interface Line {
  /** Bytes that were written and not taken yet. */
  readonly writableLength: number;
  write(text: string): unknown;
  destroy(): unknown;
}

/** A listener that does not take so many bytes is let go of; its browser comes back and asks anew. */
const MOST_UNREAD = 1_000_000;
/** So many events may wait for an answer about rights. */
const MOST_WAITING = 500;

export type Heard = Pick<CendraEvent, 'kind' | 'body'>;

/**
 * One listener's end of the event stream. Events go out in the order they happened, each only if the listener may know
 * it at that moment; where that cannot be told, it is not. Who is too slow is let go of, so that nothing piles up.
 */
export class Listener {
  private turn: Promise<void> = Promise.resolve();
  private waiting = 0;
  private gone = false;

  constructor(
    private readonly line: Line,
    private readonly mayKnow: (event: Heard) => Promise<boolean>,
  ) {}

  hear(event: Heard): void {
    if (this.gone) return;
    if (++this.waiting > MOST_WAITING) return this.leave();
    this.turn = this.turn.then(() => this.tell(event)).finally(() => this.waiting--);
  }

  /** A sign of life, so that a broken connection is noticed at both ends. */
  keepAlive(): void {
    this.say(': alive\n\n');
  }

  private async tell(event: Heard): Promise<void> {
    const may = await this.mayKnow(event).catch(() => false);
    if (may) this.say(`event: ${event.kind}\ndata: ${JSON.stringify(event.body)}\n\n`);
  }

  private say(text: string): void {
    if (this.gone) return;
    this.line.write(text);
    if (this.line.writableLength > MOST_UNREAD) this.leave();
  }

  private leave(): void {
    this.gone = true;
    this.line.destroy();
  }
}
