import { refused } from '../problems';

/** A picture that a paper holds as it came. */
export interface Photograph {
  /** JPEG, in base64. */
  readonly picture: string;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** What it shows, for who does not see it. */
  readonly says: string;
}

const PIXELS_MOST = 8_000;

/** A picture that came with a request, once its own head says what it is (ITU-T T.81, annex B). Nothing of it is unpacked. */
export function photographOf(picture: string, says: string): Photograph {
  const size = sizeOf(Buffer.from(picture, 'base64'));
  if (!size || size.width < 1 || size.height < 1 || Math.max(size.width, size.height) > PIXELS_MOST)
    throw refused(
      400,
      'picture-unread',
      'The picture of the chart is none.',
      { pointer: '/chart/picture' },
      `a JPEG of at most ${PIXELS_MOST} pixels a side`,
    );
  return { picture, says, ...size };
}

/** Markers of frames, which say how large they are; 0xC4, 0xC8 and 0xCC are others. */
const isFrame = (marker: number) => marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);

function sizeOf(bytes: Buffer): { readonly width: number; readonly height: number } | undefined {
  if (bytes.length < 4 || bytes.readUInt16BE(0) !== 0xffd8) return undefined;
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) return undefined;
    const marker = bytes[at + 1] ?? 0;
    if (isFrame(marker)) return { height: bytes.readUInt16BE(at + 5), width: bytes.readUInt16BE(at + 7) };
    at += 2 + bytes.readUInt16BE(at + 2);
  }
  return undefined;
}
