import { zipSync } from 'fflate';

const name = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';

/** A .docx of paragraphs. */
export function paragraphsDocx(paragraphs: readonly string[]): Uint8Array<ArrayBuffer> {
  const escaped = (words: string): string => words.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
  const lines = paragraphs.map(
    (words) => `<w:p><w:r><w:t xml:space="preserve">${escaped(words)}</w:t></w:r></w:p>`,
  );
  const part = (text: string): Uint8Array => new TextEncoder().encode(text);
  const packed = zipSync({
    '[Content_Types].xml': part(
      '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
    ),
    'word/document.xml': part(`<w:document ${name}><w:body>${lines.join('')}</w:body></w:document>`),
  });
  return new Uint8Array(packed);
}

/** A .docx of so many paragraphs of words that differ from file to file. */
export const heavyDocx = (paragraphs: number, mark: string): Uint8Array<ArrayBuffer> =>
  paragraphsDocx(
    Array.from(
      { length: paragraphs },
      (_, at) => `${mark} ${at} ${Math.sin(at).toString(36)} of the rope and the tower it runs over`,
    ),
  );
