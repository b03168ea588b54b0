import { Injectable } from '@nestjs/common';

/** So long a run waits with counting for its first page to be read, in ms. */
const WITHIN = 120;

/**
 * Rows come first: whoever reads a result's first page tells it here, and its run begins to count then, or after a
 * moment in which nobody came.
 */
@Injectable()
export class FirstPages {
  private readonly waiting = new Map<string, () => void>();

  /** The first page of a result has been read. */
  read(result: string): void {
    this.waiting.get(result)?.();
  }

  /** Settles when the first page of a result was read, when the run is stopped, or after a moment. */
  async untilRead(result: string, signal: AbortSignal): Promise<void> {
    await new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, WITHIN);
      const settle = () => {
        clearTimeout(timer);
        resolve();
      };
      this.waiting.set(result, settle);
      signal.addEventListener('abort', settle, { once: true });
    });
    this.waiting.delete(result);
  }
}
