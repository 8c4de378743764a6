import { refuse, type Refusal } from '../../document/refusal.ts';

export const encodings = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252'] as const;
export type Encoding = (typeof encodings)[number];

/** How a text stands in a file. */
export interface TextForm {
  encoding: Encoding;
  /** Whether it begins with a byte order mark (Unicode 15, 23.8). */
  mark: boolean;
  /** The line end most of its lines have. */
  ending: '\n' | '\r\n' | '\r';
}

/** The form of a text that is made here. */
export const usualForm: TextForm = { encoding: 'utf-8', mark: false, ending: '\n' };

/**
 * What an encoding is called. Latin-1 is read as Windows-1252, which holds all of it (WHATWG Encoding,
 * 4.2).
 */
export const encodingNames: Readonly<Record<Encoding, string>> = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16',
  'utf-16be': 'UTF-16 (big endian)',
  'windows-1252': 'Windows-1252',
};

const marks: readonly (readonly [Encoding, readonly number[]])[] = [
  ['utf-8', [0xef, 0xbb, 0xbf]],
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];
const strict = (encoding: Encoding): TextDecoder =>
  new TextDecoder(encoding, { fatal: true, ignoreBOM: true });

/** Bytes looked at to tell UTF-16 without a mark. */
const looked = 4096;
/** Share of every other byte that is zero in UTF-16 of European text; in other encodings there is none. */
const mostlyZero = 0.4;

function decoded(bytes: Uint8Array, encoding: Encoding): string | null {
  try {
    return strict(encoding).decode(bytes);
  } catch (error) {
    // By name: the decoder may be of another realm than this code.
    if ((error as Error).name === 'TypeError') return null;
    throw error;
  }
}

/** UTF-16 without a mark, by where its zero bytes stand; null where it is not. */
function unmarked16(bytes: Uint8Array): Encoding | null {
  if (bytes.length < 2 || bytes.length % 2 === 1) return null;
  const zeros: [number, number] = [0, 0];
  const count = Math.min(bytes.length, looked);
  for (let at = 0; at < count; at += 1) if (bytes[at] === 0) zeros[at % 2 === 0 ? 0 : 1] += 1;
  const [first, second] = zeros.map((sum) => sum / (count / 2)) as [number, number];
  if (second >= mostlyZero && first < second / 4) return 'utf-16le';
  return first >= mostlyZero && second < first / 4 ? 'utf-16be' : null;
}

/**
 * A text as it stands in a file, its line ends as they are: by its byte order mark; UTF-16 without one by its
 * zero bytes; UTF-8 where it is that throughout (RFC 3629); else Windows-1252, in which any bytes are a text.
 */
export function decodeText(bytes: Uint8Array): { text: string; form: TextForm } {
  const found = marks.find(([, mark]) => mark.every((byte, at) => bytes[at] === byte));
  const [marked, content] = found ? [found[0], bytes.subarray(found[1].length)] : [null, bytes];
  for (const encoding of marked ? [marked] : [unmarked16(bytes), 'utf-8' as const]) {
    const text = encoding && decoded(content, encoding);
    if (encoding && text !== null)
      return { text, form: { encoding, mark: marked !== null, ending: endingOf(text) } };
  }
  // What is marked and does not hold to its mark is read as it stands, mark and all.
  const text = decode1252(bytes);
  return { text, form: { encoding: 'windows-1252', mark: false, ending: endingOf(text) } };
}

function endingOf(text: string): TextForm['ending'] {
  const counts = { '\r\n': 0, '\n': 0, '\r': 0 };
  for (const [ending] of text.matchAll(/\r\n|\n|\r/g)) counts[ending as TextForm['ending']] += 1;
  if (counts['\r\n'] > counts['\n'] && counts['\r\n'] >= counts['\r']) return '\r\n';
  return counts['\r'] > counts['\n'] ? '\r' : '\n';
}

/** A text with line ends of one kind. */
export const withEnding = (text: string, ending: TextForm['ending']): string =>
  text.replace(/\r\n|\n|\r/g, ending);

/** What bytes 0x80 to 0x9f are in Windows-1252 (WHATWG Encoding, index windows-1252). */
const upper1252 =
  '\u20ac\u0081\u201a\u0192\u201e\u2026\u2020\u2021\u02c6\u2030\u0160\u2039\u0152\u008d\u017d\u008f' +
  '\u0090\u2018\u2019\u201c\u201d\u2022\u2013\u2014\u02dc\u2122\u0161\u203a\u0153\u009d\u017e\u0178';
const upperBytes = new Map([...upper1252].map((sign, at) => [sign, 0x80 + at]));

/** Some decoders read these bytes as Latin-1 does, others by the index: here they are what the index says. */
const decode1252 = (bytes: Uint8Array): string =>
  new TextDecoder('windows-1252')
    .decode(bytes)
    .replace(/[\u0080-\u009f]/g, (sign) => upper1252[sign.charCodeAt(0) - 0x80] ?? sign);

/** The byte of a sign in Windows-1252; undefined where there is none. */
function byte1252(sign: string): number | undefined {
  const code = sign.codePointAt(0) ?? 0;
  return code < 0x80 || (code >= 0xa0 && code <= 0xff) ? code : upperBytes.get(sign);
}

/**
 * A text as bytes in an encoding, its line ends as they are; `decodeText` reads the same text from them.
 * @returns a refusal `not-in-encoding` that names the signs the encoding has not
 */
export function encodeText(text: string, { encoding, mark }: TextForm): Uint8Array | Refusal {
  if (encoding === 'windows-1252') return encode1252(text);
  const lead = mark ? (marks.find(([of]) => of === encoding)?.[1] ?? []) : [];
  const body =
    encoding === 'utf-8' ? new TextEncoder().encode(text) : encode16(text, encoding === 'utf-16le');
  const bytes = new Uint8Array(lead.length + body.length);
  bytes.set(lead);
  bytes.set(body, lead.length);
  return bytes;
}

function encode16(text: string, isLittle: boolean): Uint8Array {
  const view = new DataView(new ArrayBuffer(text.length * 2));
  for (let at = 0; at < text.length; at += 1) view.setUint16(at * 2, text.charCodeAt(at), isLittle);
  return new Uint8Array(view.buffer);
}

function encode1252(text: string): Uint8Array | Refusal {
  const missing = new Set<string>();
  const bytes: number[] = [];
  for (const sign of text) {
    const byte = byte1252(sign);
    if (byte === undefined) missing.add(sign);
    else bytes.push(byte);
  }
  if (missing.size === 0) return Uint8Array.from(bytes);
  const signs = [...missing].slice(0, 10).join(' ');
  const reason = `The file is written in ${encodingNames['windows-1252']}, which has no ${signs}. Leave that out, or write the file in UTF-8.`;
  return refuse('invalid', 'not-in-encoding', reason, {
    encoding: 'windows-1252',
    signs: [...missing].slice(0, 50),
  });
}
