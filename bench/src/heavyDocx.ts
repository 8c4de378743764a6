import { zipSync } from 'fflate';

const name = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';

/** A .docx of so many paragraphs of words that differ from file to file. */
export function heavyDocx(paragraphs: number, mark: string): Uint8Array<ArrayBuffer> {
  const lines = Array.from({ length: paragraphs }, (_, at) => {
    const words = `${mark} ${at} ${Math.sin(at).toString(36)} of the rope and the tower it runs over`;
    return `<w:p><w:r><w:t>${words}</w:t></w:r></w:p>`;
  });
  const part = (text: string): Uint8Array => new TextEncoder().encode(text);
  const packed = zipSync({
    '[Content_Types].xml': part(
      '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
    ),
    'word/document.xml': part(`<w:document ${name}><w:body>${lines.join('')}</w:body></w:document>`),
  });
  return new Uint8Array(packed);
}
