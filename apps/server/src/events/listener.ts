import type { Heard } from './events.service';

/** What a listener is told through. */
export interface Line {
  /** Bytes that were written and not taken yet. */
  readonly writableLength: number;
  write(text: string): unknown;
  once(event: 'drain', hear: () => void): unknown;
  destroy(): unknown;
}

/** A listener that has not taken so many bytes is told nothing more until it has; then, that it has to look again. */
const MOST_UNREAD = 64_000;
/** So many events may wait for an answer about rights. */
const MOST_WAITING = 500;

/**
 * One listener's end of the event stream. Events go out in the order they happened, each only if the listener may know
 * it at that moment; where that cannot be told, it is not. Who reads slowly misses some and is told so; who does not read
 * at all between two signs of life is let go of.
 */
export class Listener {
  private turn: Promise<void> = Promise.resolve();
  private waiting = 0;
  private gone = false;
  private missed = false;
  private stuck = false;

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
    if (this.stuck) return this.leave();
    this.stuck = this.missed;
    if (!this.missed) this.say(': alive\n\n');
  }

  private async tell(event: Heard): Promise<void> {
    const may = await this.mayKnow(event).catch(() => false);
    if (may) this.say(`event: ${event.kind}\ndata: ${event.text}\n\n`);
  }

  private say(text: string): void {
    if (this.gone || this.missed) return;
    if (this.line.writableLength <= MOST_UNREAD) {
      this.line.write(text);
      return;
    }
    this.missed = true;
    this.line.once('drain', () => {
      this.missed = this.stuck = false;
      this.say('event: again\ndata: {}\n\n');
    });
  }

  private leave(): void {
    this.gone = true;
    this.line.destroy();
  }
}
