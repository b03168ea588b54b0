import { inflateSync } from 'node:zlib';

/** Bytes of a header and of an entry of its directory: of WOFF (W3C, WOFF File Format 1.0, 4 and 5), and of what it wraps (ISO/IEC 14496-22, 4.5). */
const WOFF = { header: 44, entry: 20 };
const FONT = { header: 12, entry: 16 };

/**
 * A font as it is without its wrapping, each table inflated. A wrapped one is inflated again for each letter that is taken
 * from it.
 */
export function unwrapped(woff: Buffer): Buffer {
  const tables = Array.from({ length: woff.readUInt16BE(12) }, (_each, index) => {
    const at = WOFF.header + index * WOFF.entry;
    const [offset, packed, length] = [4, 8, 12].map((place) => woff.readUInt32BE(at + place)) as [number, number, number];
    const bytes = woff.subarray(offset, offset + packed);
    return { tag: woff.subarray(at, at + 4), checksum: woff.readUInt32BE(at + 16), bytes: packed < length ? inflateSync(bytes) : bytes };
  });
  const power = Math.floor(Math.log2(Math.max(1, tables.length)));
  const head = Buffer.alloc(FONT.header + tables.length * FONT.entry);
  woff.copy(head, 0, 4, 8);
  head.writeUInt16BE(tables.length, 4);
  head.writeUInt16BE(2 ** power * FONT.entry, 6);
  head.writeUInt16BE(power, 8);
  head.writeUInt16BE((tables.length - 2 ** power) * FONT.entry, 10);
  let end = head.length;
  const parts = [head];
  tables.forEach(({ tag, checksum, bytes }, index) => {
    const at = FONT.header + index * FONT.entry;
    tag.copy(head, at);
    head.writeUInt32BE(checksum, at + 4);
    head.writeUInt32BE(end, at + 8);
    head.writeUInt32BE(bytes.length, at + 12);
    // Each begins at a multiple of four.
    const padded = Buffer.alloc(Math.ceil(bytes.length / 4) * 4);
    bytes.copy(padded);
    parts.push(padded);
    end += padded.length;
  });
  return Buffer.concat(parts);
}
