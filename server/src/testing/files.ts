import type { Response } from 'supertest';
import { strToU8, zipSync } from 'fflate';

const names = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';

/** A small .docx with these lines as its paragraphs; the same lines give the same bytes. */
export function docxOf(lines: string, parts: Record<string, string | Uint8Array> = {}): Buffer {
  const body = lines
    .split('\n')
    .map((line) => `<w:p><w:r><w:t xml:space="preserve">${line}</w:t></w:r></w:p>`)
    .join('');
  const files = {
    '[Content_Types].xml': '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
    'word/document.xml': `<w:document ${names}><w:body>${body}</w:body></w:document>`,
    ...parts,
  };
  return Buffer.from(
    zipSync(
      Object.fromEntries(
        Object.entries(files).map(([name, part]) => [name, typeof part === 'string' ? strToU8(part) : part]),
      ),
      { mtime: new Date('2026-01-01T00:00:00') },
    ),
  );
}

/** Collects a binary answer whole, for supertest's `parse`. */
export function binary(res: Response, done: (error: Error | null, body: Buffer) => void): void {
  const parts: Buffer[] = [];
  const stream = res as unknown as NodeJS.ReadableStream;
  stream.on('data', (part: Buffer) => parts.push(part));
  stream.on('end', () => done(null, Buffer.concat(parts)));
}

/** A PNG's beginning (ISO/IEC 15948, 5.2 and 11.2.1): its size is all that is told of it. */
export function pngOf(width: number, height: number): Buffer {
  const header = Buffer.from('89504e470d0a1a0a0000000d49484452000000000000000008020000000000000000', 'hex');
  header.writeUInt32BE(width, 16);
  header.writeUInt32BE(height, 20);
  return header;
}
