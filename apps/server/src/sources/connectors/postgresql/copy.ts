import type { FileHandle } from 'node:fs/promises';
import type { Socket } from 'node:net';
import type { Client, Connection } from 'pg';
import type { CopyLimits, CopyOutcome, CopyProgress } from '../connector';
import { streamOf } from './connect';

const COPY_DATA = 0x64; // 'd'
const READY = 0x5a; // 'Z'
const HEADER_BYTES = 5;
/** Rows wait in memory up to this; then the socket is paused until the file has taken them. */
const PENDING_BYTES = 4_000_000;

/**
 * Runs `copy (…) to stdout` over the extended protocol (Parse, Bind, Execute), where the server refuses
 * stacked statements, and writes the rows to a file. While it runs, the messages that carry rows are taken
 * off the wire here; all others go on to the driver, so errors and the end of the command arrive as usual.
 * One message is one row of CSV.
 */
export async function copyToFile(
  client: Client,
  text: string,
  file: FileHandle,
  limits: CopyLimits,
  onProgress: (progress: CopyProgress) => void,
  stop: () => void,
): Promise<CopyOutcome> {
  const receiver = new Receiver(streamOf(client), file, limits, onProgress, stop);
  let failure: Error | undefined;
  const submittable = {
    submit(connection: Connection) {
      receiver.attach();
      const wire = connection as unknown as Wire;
      wire.parse({ name: '', text, types: [] }, true);
      wire.bind({ portal: '', statement: '', values: [], binary: false }, true);
      wire.execute({ portal: '', rows: 0 }, true);
      wire.sync();
      return null;
    },
    handleCommandComplete: ignore,
    handleRowDescription: ignore,
    handlePortalSuspended: ignore,
    handleEmptyQuery: ignore,
    handleReadyForQuery: ignore,
    // After an error the driver tells nothing more; the receiver itself sees the command's end.
    handleError(error: Error) {
      failure = error;
    },
  };
  client.query(submittable as never);
  const how = await receiver.ended;
  const outcome = await receiver.finished();
  if (how === 'lost') throw failure ?? new Error('Connection terminated unexpectedly');
  if (failure && outcome.cut === undefined) throw failure;
  return outcome;
}

const ignore = () => undefined;

/** The driver's own way of sending messages, which its types leave out. */
interface Wire {
  parse(message: object, more: boolean): void;
  bind(message: object, more: boolean): void;
  execute(message: object, more: boolean): void;
  sync(): void;
}

class Receiver {
  private rest: Buffer = Buffer.alloc(0);
  private pending: Buffer[] = [];
  private pendingBytes = 0;
  private rows = 0;
  private bytes = 0;
  private longestRow = 0;
  private cut: CopyOutcome['cut'];
  private writing: Promise<void> = Promise.resolve();
  private failed: unknown;
  private driver: ((chunk: Buffer) => void)[] = [];
  private settle: (how: 'ready' | 'lost') => void = ignore;

  /** Settles when the command is over: the connection is ready for the next one, or lost. */
  readonly ended = new Promise<'ready' | 'lost'>((resolve) => (this.settle = resolve));

  constructor(
    private readonly stream: Socket,
    private readonly file: FileHandle,
    private readonly limits: CopyLimits,
    private readonly onProgress: (progress: CopyProgress) => void,
    private readonly stop: () => void,
  ) {}

  attach(): void {
    this.driver = this.stream.listeners('data') as ((chunk: Buffer) => void)[];
    this.stream.removeAllListeners('data');
    this.stream.on('data', this.onChunk);
    this.stream.once('close', this.onClose);
  }

  private readonly onClose = () => this.settle('lost');

  /** What came, once everything is in the file. */
  async finished(): Promise<CopyOutcome> {
    this.detach();
    this.flush();
    await this.writing;
    if (this.failed !== undefined) throw this.failed as Error;
    return { rows: this.rows, bytes: this.bytes, longestRow: this.longestRow, cut: this.cut };
  }

  private detach(): void {
    if (this.driver.length === 0) return;
    this.stream.off('data', this.onChunk);
    this.stream.off('close', this.onClose);
    for (const listener of this.driver) this.stream.on('data', listener);
    this.driver = [];
  }

  private readonly onChunk = (chunk: Buffer): void => {
    const buffer = this.rest.length > 0 ? Buffer.concat([this.rest, chunk]) : chunk;
    let kept: Buffer[] = [];
    let at = 0;
    while (at + HEADER_BYTES <= buffer.length) {
      const end = at + 1 + buffer.readInt32BE(at + 1);
      if (end > buffer.length) break;
      if (buffer[at] === COPY_DATA) this.take(buffer.subarray(at + HEADER_BYTES, end), kept);
      else {
        // The message may be the last one, after which the file is closed: the rows before it go first.
        this.keep(kept);
        kept = [];
        this.forward(buffer.subarray(at, end), buffer[at] === READY);
      }
      at = end;
    }
    this.rest = buffer.subarray(at);
    this.keep(kept);
  };

  private take(row: Buffer, kept: Buffer[]): void {
    if (this.cut !== undefined) return;
    if (this.rows >= this.limits.rows) return this.cutAt('rows');
    if (this.bytes + row.length > this.limits.bytes) return this.cutAt('bytes');
    kept.push(row);
    this.rows++;
    this.bytes += row.length;
    if (row.length > this.longestRow) this.longestRow = row.length;
  }

  /** The rest of the rows is not read: the statement is cancelled at the source. */
  private cutAt(reason: 'rows' | 'bytes'): void {
    this.cut = reason;
    this.stop();
  }

  private forward(message: Buffer, last: boolean): void {
    const listeners = this.driver;
    if (last) this.detach();
    for (const listener of listeners) listener(message);
    if (last) this.settle('ready');
  }

  private keep(rows: Buffer[]): void {
    if (rows.length === 0) return;
    const together = Buffer.concat(rows);
    this.pending.push(together);
    this.pendingBytes += together.length;
    this.onProgress({ rows: this.rows, bytes: this.bytes });
    if (this.pendingBytes >= PENDING_BYTES / 8) this.flush();
  }

  private flush(): void {
    if (this.pending.length === 0) return;
    const chunks = this.pending;
    const size = this.pendingBytes;
    this.pending = [];
    this.pendingBytes = 0;
    this.queued += size;
    if (this.queued >= PENDING_BYTES) this.stream.pause();
    this.writing = this.writing
      .then(async () => {
        if (this.failed === undefined) await this.file.writev(chunks);
      })
      .catch((error: unknown) => {
        this.failed = error;
        this.stop();
      })
      .finally(() => {
        this.queued -= size;
        if (this.queued < PENDING_BYTES) this.stream.resume();
      });
  }

  private queued = 0;
}
