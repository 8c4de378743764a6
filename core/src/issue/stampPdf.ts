import type * as PdfLib from 'pdf-lib';
import type { PDFDocument, PDFFont, PDFPage } from 'pdf-lib';
import { refuse, type Refusal } from '../document/refusal.ts';

/** Points of the line's type, and of its distance from the lower edge of the page. */
const typeSize = 7.5;
const edge = 12;

/**
 * A PDF with a line in the lower margin of each page, along what is its lower edge where it is shown (ISO
 * 32000-1, 7.7.3.3: CropBox, Rotate), in a font that the file carries along as far as it is used.
 * @param typeface an OpenType or TrueType font
 * @returns a refusal with code `not-to-be-issued` where the file is locked or damaged, or the font lacks
 * a sign
 */
export async function stampPdf(
  bytes: Uint8Array,
  line: string,
  typeface: Uint8Array,
): Promise<Uint8Array | Refusal> {
  // Four hundred modules, which only this needs.
  const pdf = await import('pdf-lib');
  const { default: fontkit } = await import('@pdf-lib/fontkit');
  const { degrees, PDFDocument, rgb } = pdf;
  const unfolded = boundUnfolding(pdf);
  try {
    const opened = await PDFDocument.load(bytes, { updateMetadata: false });
    // What was cut short is passed over on loading, as what is damaged.
    if (unfolded.room < 0 || hasTooManyPages(opened))
      return notIssued('it holds more than a document may. Check in a smaller one.');
    opened.registerFontkit(fontkit);
    const font = await opened.embedFont(typeface, { subset: true });
    const text = line.normalize('NFC');
    const lacking = signsLacking(font, text);
    if (lacking !== '')
      return notIssued(`no font here can write “${lacking}” into its margin. It can be given out as it is.`);
    for (const page of opened.getPages()) {
      const { turn, ...place } = placeOf(page, font, text);
      page.drawText(text, { ...place, font, color: rgb(0.25, 0.25, 0.25), rotate: degrees(turn) });
    }
    return await opened.save({ useObjectStreams: false });
  } catch (error) {
    if (error instanceof Error && isLocked(error))
      return notIssued('it is locked against changes. Check in a PDF without a password.');
    // What a damaged file lacks is met anywhere on the way.
    if (error instanceof Error) return notIssued('it cannot be read as a PDF. Save it anew and check it in.');
    throw error;
  }
}

/** No more is unfolded of a PDF's object streams, in bytes. */
const mostUnfolded = 128 << 20;

/** What unfolds streams in pdf-lib, which has no bound of its own, and how much there still is room for. */
interface Unfolding {
  buffer: Uint8Array;
  ensureBuffer: (this: Unfolding, requested: number) => Uint8Array;
}
const unfolded = { room: 0, isBound: false };

/** Lets a PDF of a few kilobytes not unfold to gigabytes, from now on; tells how much room is left. */
function boundUnfolding({
  decodePDFRawStream,
  PDFContext,
  PDFRawStream,
}: typeof PdfLib): Readonly<{ room: number }> {
  unfolded.room = mostUnfolded;
  if (unfolded.isBound) return unfolded;
  unfolded.isBound = true;
  const dictionary = PDFContext.create().obj({ Filter: 'FlateDecode' });
  const empty = decodePDFRawStream(PDFRawStream.of(dictionary, Uint8Array.of(0x78, 0x9c)));
  const streams = Object.getPrototypeOf(Object.getPrototypeOf(empty)) as Unfolding;
  const { ensureBuffer } = streams;
  streams.ensureBuffer = function (requested) {
    if (unfolded.room < 0) throw new Error('there is no room for more');
    const before = this.buffer.length;
    const buffer = ensureBuffer.call(this, requested);
    unfolded.room -= buffer.length - before;
    return buffer;
  };
  return unfolded;
}

/** No document has more pages; a tree of a few nodes that name each other may seem to have millions. */
const mostPages = 20_000;

function hasTooManyPages(opened: PDFDocument): boolean {
  let nodes = 0;
  class TooMany extends Error {}
  try {
    opened.catalog.Pages().traverse(() => {
      nodes += 1;
      if (nodes > 2 * mostPages) throw new TooMany();
    });
    return opened.getPageCount() > mostPages;
  } catch (error) {
    if (error instanceof TooMany) return true;
    throw error;
  }
}

/** That no issued copy can be made, and why. */
export const notIssued = (why: string): Refusal =>
  refuse('conflict', 'not-to-be-issued', `No issued copy can be made of the file: ${why}`);

/**
 * Whether a file is encrypted (ISO 32000-1, 7.6). What pdf-lib throws then is of no class of its own once it
 * is compiled, and is known by its words.
 */
const isLocked = (error: Error): boolean => error.message.includes('is encrypted');

/** Signs that the font lacks, or that would be written in the wrong order: those from right to left. */
function signsLacking(font: PDFFont, line: string): string {
  const known = new Set(font.getCharacterSet());
  const isWritten = (sign: string): boolean => known.has(sign.codePointAt(0) ?? 0) && !rightToLeft.test(sign);
  return [...new Set(line)].filter((sign) => !isWritten(sign)).join('');
}
const rightToLeft = /[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}]/u;

/** Where the line begins on a page, in the page's own coordinates, how large it is and how it is turned. */
function placeOf(
  page: PDFPage,
  font: PDFFont,
  text: string,
): { x: number; y: number; size: number; turn: number } {
  const { x, y, width, height } = page.getCropBox();
  const turn = ((page.getRotation().angle % 360) + 360) % 360;
  const isUpright = turn % 180 === 0;
  const along = isUpright ? width : height;
  const size = Math.min(typeSize, (typeSize * (along - 2 * edge)) / font.widthOfTextAtSize(text, typeSize));
  const from = (along - font.widthOfTextAtSize(text, size)) / 2;
  // By how the page is turned to be shown.
  const places: Record<number, [number, number]> = {
    0: [x + from, y + edge],
    90: [x + width - edge, y + from],
    180: [x + width - from, y + height - edge],
    270: [x + edge, y + height - from],
  };
  const [left, bottom] = places[turn] ?? places[0] ?? [x, y];
  return { x: left, y: bottom, size, turn };
}
