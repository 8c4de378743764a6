import { Inflate, inflateSync } from 'fflate';
import { refuse, type Refusal } from '../../document/refusal.ts';

/** One file in a zip archive; `offset` is where its local header starts. */
export interface ZipEntry {
  name: string;
  method: number;
  crc32: number;
  compressedSize: number;
  size: number;
  offset: number;
}

/** Bounds on what an archive may unfold to, in bytes and entries. */
export interface ZipLimits {
  entries: number;
  entryBytes: number;
  totalBytes: number;
}

/**
 * A document of a thousand pages with pictures unfolds to well under this; a small file that unfolds to more
 * is made to harm.
 */
export const documentLimits: ZipLimits = { entries: 10_000, entryBytes: 128 << 20, totalBytes: 512 << 20 };

/**
 * Compressed bytes given to the inflater at once: at DEFLATE's highest ratio (1,032:1) it answers with 17 MB
 * at most.
 */
const slice = 16_384;
const highestRatio = 1032;

const unreadable = (why: string): Refusal =>
  refuse(
    'invalid',
    'unreadable-file',
    `The file cannot be read as a zip-based document: ${why}. Open and save it again in the program it came from.`,
  );
const bomb = (name: string): Refusal =>
  refuse(
    'invalid',
    'unfolds-too-large',
    `The file unfolds to more than a document may (at ${name}). It is not taken in.`,
    { entry: name },
  );

/**
 * Reads the list of an archive's files (PKWARE APPNOTE 6.3.x, sections 4.3.12 and 4.3.16). Encrypted, split
 * and zip64 archives are refused: no document of the kinds read here is one.
 * @param options.offset where in the archive the bytes begin; its list of files has to be among them
 */
export function listZip(
  bytes: Uint8Array,
  { limits = documentLimits, offset = 0 }: { limits?: ZipLimits; offset?: number } = {},
): ZipEntry[] | Refusal {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const end = findEnd(view);
  if (end === null) return unreadable('its end is missing, it may have been cut short');
  const count = view.getUint16(end + 10, true);
  const start = view.getUint32(end + 16, true);
  if (view.getUint16(end + 4, true) !== 0 || count === 0xffff || start === 0xffffffff)
    return unreadable('it is split or uses the zip64 form');
  if (count > limits.entries) return bomb(`${count} entries`);
  const entries: ZipEntry[] = [];
  const names = new Set<string>();
  let at = start - offset;
  let total = 0;
  for (let index = 0; index < count; index += 1) {
    if (at < 0 || at + 46 > end || view.getUint32(at, true) !== 0x02014b50)
      return unreadable('its directory is damaged');
    const nameLength = view.getUint16(at + 28, true);
    const entry: ZipEntry = {
      name: new TextDecoder().decode(bytes.subarray(at + 46, at + 46 + nameLength)),
      method: view.getUint16(at + 10, true),
      crc32: view.getUint32(at + 16, true),
      compressedSize: view.getUint32(at + 20, true),
      size: view.getUint32(at + 24, true),
      offset: view.getUint32(at + 42, true),
    };
    if (view.getUint16(at + 8, true) & 1) return unreadable('it is encrypted');
    // Part names are equal without regard to ASCII case (ECMA-376, Part 2, 6.2.2.3); which of two is shown
    // differs from program to program.
    const name = entry.name.toLowerCase();
    if (names.has(name)) return unreadable(`it holds ${entry.name} twice`);
    names.add(name);
    total += entry.size;
    if (entry.size > limits.entryBytes || total > limits.totalBytes) return bomb(entry.name);
    entries.push(entry);
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  return entries;
}

/** Where the list of files starts, behind the last of them; null where there is no list. */
export function directoryStart(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const end = findEnd(view);
  return end === null ? null : view.getUint32(end + 16, true);
}

/**
 * Unfolds one entry, never further than its declared size, and checks its length and CRC-32.
 * @returns the bytes, or a refusal naming the entry
 */
export function readEntry(bytes: Uint8Array, entry: ZipEntry): Uint8Array | Refusal {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (entry.offset + 30 > bytes.length || view.getUint32(entry.offset, true) !== 0x04034b50)
    return unreadable(`${entry.name} is missing`);
  const start =
    entry.offset + 30 + view.getUint16(entry.offset + 26, true) + view.getUint16(entry.offset + 28, true);
  const packed = bytes.subarray(start, start + entry.compressedSize);
  if (packed.length !== entry.compressedSize) return unreadable(`${entry.name} is cut short`);
  if (entry.method !== 0 && entry.method !== 8)
    return unreadable(`${entry.name} is packed in an unknown way`);
  const data = entry.method === 0 ? packed : inflate(packed, entry.size);
  if (data?.length !== entry.size || crc32(data) !== entry.crc32)
    return unreadable(`${entry.name} is damaged`);
  return data;
}

/** Unfolds to `size` bytes; null where there are fewer or more, or when the data is damaged. */
function inflate(packed: Uint8Array, size: number): Uint8Array | null {
  if (size > packed.length * highestRatio) return null;
  const small = packed.length <= slice;
  try {
    const data = small ? inflateAtOnce(packed, size) : inflateInSlices(packed, size);
    return data?.length === size ? data : null;
  } catch (error) {
    // fflate throws on malformed streams; a block that was not packed does not fit into the room there is.
    const { code, name } = error as { code?: number; name?: string };
    if (code !== undefined || (small && name === 'RangeError')) return null;
    throw error;
  }
}

/** Most parts of a document are small: what there is room for, and one byte more if there are more. */
const inflateAtOnce = (packed: Uint8Array, size: number): Uint8Array =>
  inflateSync(packed, { out: new Uint8Array(size + 1) });

/** As it comes, and no further than to `size` bytes; null where there are more, or its end is missing. */
function inflateInSlices(packed: Uint8Array, size: number): Uint8Array | null {
  const parts: Uint8Array[] = [];
  let length = 0;
  let finished = false;
  const inflater = new Inflate((part, last) => {
    length += part.length;
    if (length <= size) parts.push(part);
    finished = last;
  });
  for (let at = 0; at < packed.length; at += slice) {
    inflater.push(packed.subarray(at, at + slice), at + slice >= packed.length);
    if (length > size) return null;
  }
  if (!finished) return null;
  const whole = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

function findEnd(view: DataView): number | null {
  const last = view.byteLength - 22;
  for (let at = last; at >= Math.max(0, last - 0xffff); at -= 1) {
    if (view.getUint32(at, true) === 0x06054b50) return at;
  }
  return null;
}

const table = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k += 1) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/** CRC-32 as zip uses it (ISO 3309, polynomial 0xEDB88320 reflected). */
export function crc32(data: Uint8Array): number {
  let crc = 0xffffffff;
  for (const byte of data) crc = (table[(crc ^ byte) & 0xff] as number) ^ (crc >>> 8);
  return (crc ^ 0xffffffff) >>> 0;
}
