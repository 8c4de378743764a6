import type { Response } from 'supertest';
import { strToU8, zipSync } from 'fflate';

const names = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';

/** A small .docx with these lines as its paragraphs; the same lines give the same bytes. */
export function docxOf(lines: string, parts: Record<string, string> = {}): Buffer {
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
    zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])), {
      mtime: new Date('2026-01-01T00:00:00'),
    }),
  );
}

/** Collects a binary answer whole, for supertest's `parse`. */
export function binary(res: Response, done: (error: Error | null, body: Buffer) => void): void {
  const parts: Buffer[] = [];
  const stream = res as unknown as NodeJS.ReadableStream;
  stream.on('data', (part: Buffer) => parts.push(part));
  stream.on('end', () => done(null, Buffer.concat(parts)));
}
