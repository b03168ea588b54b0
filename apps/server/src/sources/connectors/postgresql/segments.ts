import { open } from 'node:fs/promises';
import type { FileHandle } from 'node:fs/promises';
import { LIMITS } from '../../../limits';
import { refused } from '../../../problems';
import type { SegmentSink } from '../connector';

/** A segment ends with the rows that make it so large. */
const SEGMENT_BYTES = 8_000_000;
/** The first one is small: its rows can be looked at while the rest arrives. */
const FIRST_SEGMENT_BYTES = 1_000_000;
/**
 * Where nothing is being taken, a segment ends sooner, so that little is left to take when the last row has come: with a
 * sixteenth of all there was, which keeps segments few where rows are many.
 */
const IDLE_SEGMENT_BYTES = 2_000_000;
const IDLE_SHARE = 16;
/** Rows gather in memory up to this before they are written. */
const BUFFER_BYTES = 1_000_000;
/** Bytes that wait to be written, and segments that wait to be taken, before the socket is paused. */
const PENDING_BYTES = 4_000_000;
const PENDING_SEGMENTS = 4;

/** Whoever reads CSV takes one at its beginning away; a file of ours begins with one, so that a text that begins so keeps its own. */
const BYTE_ORDER_MARK = '\uFEFF';

const nothing = () => undefined;

const rowTooLong = () =>
  refused(
    422,
    'row-too-long',
    `One row has more than ${LIMITS.rowBytes.value / 1_000_000} million bytes.`,
    {},
    'its long texts left out, or their beginning by substring in a calculated field',
  );

/** Writes all of it: a disk that has room for a part takes that part, and says only of the next one that it is full. */
export async function writeAll(handle: Pick<FileHandle, 'write'>, bytes: Uint8Array): Promise<void> {
  for (let at = 0; at < bytes.length;) at += (await handle.write(bytes, at)).bytesWritten;
}

/** Cuts rows into segments, writes each to its file, and hands it on while the next one fills. */
export class Segments {
  private buffer: Buffer = Buffer.allocUnsafe(BUFFER_BYTES);
  private readonly free: Buffer[] = [];
  private used = 0;
  private rows = 0;
  private bytes = 0;
  /** Of all segments so far, the one that fills included. */
  private all = 0;
  private longestRow = 0;
  /** Bytes of the row under way. */
  private partial = 0;
  private file: string | undefined;
  private handle: Promise<FileHandle> | undefined;
  private readonly handles = new Set<FileHandle>();
  private writing: Promise<void> = Promise.resolve();
  /** The last two that are being taken: so many are at once. */
  private takes: readonly Promise<void>[] = [];
  private first = 0;
  private queued = 0;
  private open = 0;
  private any = false;
  private dropping = false;
  private room = true;
  private failed: unknown;
  onRoom: (room: boolean) => void = nothing;

  constructor(
    private readonly sink: SegmentSink,
    private readonly stop: () => void,
  ) {}

  /** A part of a row. */
  write(part: Buffer): void {
    this.partial += part.length;
    if (this.partial > LIMITS.rowBytes.value) this.fail(rowTooLong());
    this.append(part);
  }

  /** Whole rows, one behind the other. */
  rowsOf(rows: Buffer, count: number, longest: number): void {
    this.append(rows);
    this.count(count, rows.length, longest);
  }

  endRow(): void {
    this.count(1, this.partial, this.partial);
    this.partial = 0;
  }

  private append(bytes: Buffer): void {
    // Opened as soon as there is something to write: at the end of a few rows nobody waits for it.
    this.handleNow();
    if (bytes.length > BUFFER_BYTES - this.used) this.flush();
    if (bytes.length > BUFFER_BYTES) this.put(Buffer.from(bytes));
    else this.used += bytes.copy(this.buffer, this.used);
  }

  private count(rows: number, bytes: number, longest: number): void {
    this.rows += rows;
    this.bytes += bytes;
    this.all += bytes;
    if (longest > this.longestRow) this.longestRow = longest;
    if (this.bytes >= this.enough()) this.close();
  }

  private enough(): number {
    if (!this.any) return FIRST_SEGMENT_BYTES;
    return this.open > 0 ? SEGMENT_BYTES : Math.min(SEGMENT_BYTES, Math.max(IDLE_SEGMENT_BYTES, this.all / IDLE_SHARE));
  }

  /** Settles when nothing is written or taken any more; what has not been handed on is left as it is. */
  async drop(): Promise<void> {
    this.dropping = true;
    await this.settled();
  }

  /** Settles when all there is has been taken; rejects with what went wrong on the way. A statement without rows gives one empty segment. */
  async finish(): Promise<void> {
    if (this.rows > 0 || !this.any) this.close();
    await this.settled();
  }

  private async settled(): Promise<void> {
    await this.writing;
    await this.handle?.catch(nothing);
    await Promise.all(this.takes);
    for (const each of this.handles) await this.closed(each).catch(nothing);
    if (this.failed !== undefined) throw this.failed as Error;
  }

  private async closed(handle: FileHandle): Promise<void> {
    this.handles.delete(handle);
    await handle.close();
  }

  private flush(): void {
    if (this.used === 0) return;
    const full = this.buffer;
    const bytes = full.subarray(0, this.used);
    // What was written is filled again: making buffers anew keeps the garbage collector busy.
    this.buffer = this.free.pop() ?? Buffer.allocUnsafe(BUFFER_BYTES);
    this.used = 0;
    this.put(bytes, () => this.free.push(full));
  }

  private put(bytes: Buffer, written: () => void = nothing): void {
    const handle = this.handleNow();
    this.queued += bytes.length;
    this.then(async () => {
      await writeAll(await handle, bytes);
      this.queued -= bytes.length;
      written();
    });
  }

  private handleNow(): Promise<FileHandle> {
    if (this.handle) return this.handle;
    const file = this.sink.next();
    this.file = file;
    this.handle = this.writing.then(async () => {
      const opened = await open(file, 'wx', 0o600);
      this.handles.add(opened);
      await opened.write(BYTE_ORDER_MARK);
      return opened;
    });
    this.handle.catch(nothing);
    return this.handle;
  }

  private close(): void {
    this.flush();
    const handle = this.handleNow();
    const { rows, bytes, longestRow, first, file = '' } = this;
    this.first += rows;
    this.rows = this.bytes = this.longestRow = 0;
    this.file = this.handle = undefined;
    this.open++;
    this.any = true;
    this.then(async () => this.closed(await handle));
    const [before, last] = this.takes;
    const taken = Promise.all([last && before, this.writing]).then(async () => {
      if (this.failed === undefined && !this.dropping)
        await this.sink.take({ file, first, rows, bytes, longestRow }).catch((error: unknown) => this.fail(error));
      this.open--;
      this.look();
    });
    this.takes = [...this.takes, taken].slice(-2);
  }

  private then(work: () => Promise<void>): void {
    this.writing = this.writing
      .then(() => (this.failed === undefined && !this.dropping ? work() : undefined))
      .catch((error: unknown) => this.fail(error))
      .finally(() => this.look());
    this.look();
  }

  private fail(error: unknown): void {
    this.failed ??= error;
    this.stop();
  }

  /** What failed is not waited for: the rest is read away. */
  private look(): void {
    const room = this.failed !== undefined || this.dropping || (this.queued < PENDING_BYTES && this.open <= PENDING_SEGMENTS);
    if (room !== this.room) this.onRoom((this.room = room));
  }
}
