import { deflateSync } from 'node:zlib';
import { readFileSync } from 'node:fs';
import { isRefusal } from '../document/refusal.ts';
import { stampPdf } from './stampPdf.ts';

const typeface = readFileSync(new URL(import.meta.resolve('dejavu-fonts-ttf/ttf/DejaVuSans.ttf')));

/** A PDF of these objects, the first of which is its catalog (ISO 32000-1, 7.5). */
function pdf(objects: readonly string[], more = ''): Uint8Array {
  let text = '%PDF-1.5\n';
  const offsets = objects.map((object, index) => {
    const at = text.length;
    text += `${index + 1} 0 obj\n${object}\nendobj\n`;
    return `${String(at).padStart(10, '0')} 00000 n \n`;
  });
  const start = text.length;
  const size = objects.length + 1;
  text += `xref\n0 ${size}\n0000000000 65535 f \n${offsets.join('')}`;
  text += `trailer\n<< /Size ${size} /Root 1 0 R ${more.replace('START', String(start))} >>\n`;
  return Buffer.from(`${text}startxref\n${start}\n%%EOF\n`, 'latin1');
}
const catalog = '<< /Type /Catalog /Pages 2 0 R >>';
const kids = (names: string, count: number): string => `<< /Type /Pages /Kids [${names}] /Count ${count} >>`;
const page = '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] >>';
const sound = [catalog, kids('3 0 R', 1), page];
/** An object stream (ISO 32000-1, 7.5.7) that unfolds to blanks, once or twice. */
function bomb(bytes: number, times: number): string {
  let packed: Uint8Array = Buffer.alloc(bytes, 32);
  for (let time = 0; time < times; time += 1) packed = deflateSync(packed);
  const filters = '/FlateDecode '.repeat(times);
  const dictionary = `<< /Type /ObjStm /N 1 /First 10 /Filter [${filters}] /Length ${packed.length} >>`;
  return `${dictionary}\nstream\n${Buffer.from(packed).toString('latin1')}\nendstream`;
}
/** Nodes of a tree that each have the next one twice: so many pages as two to the power of the levels. */
const doubling = (levels: number): string[] => [
  catalog,
  ...Array.from({ length: levels }, (_, level) => kids(`${level + 3} 0 R ${level + 3} 0 R`, 2)),
  page,
];

const stamp = async (file: Uint8Array): Promise<string> => {
  const stamped = await stampPdf(file, 'OP-014 3.0', typeface);
  return isRefusal(stamped) ? stamped.reason : 'stamped';
};
const damaged = expect.stringContaining('cannot be read as a PDF');
const tooMuch = expect.stringContaining('holds more than a document may');

beforeEach(() => {
  // What pdf-lib passes over in a damaged file it says there.
  jest.spyOn(console, 'warn').mockImplementation(() => undefined);
});

test.each<[string, Uint8Array, unknown]>([
  ['a sound one', pdf(sound), 'stamped'],
  ['a table of objects that names itself as the one before', pdf(sound, '/Prev START'), 'stamped'],
  ['arrays 100,000 deep', pdf([...sound, '['.repeat(100_000) + ']'.repeat(100_000)]), 'stamped'],
  ['pages within themselves', pdf([catalog, kids('2 0 R', 1)]), damaged],
  ['pages within each other', pdf([catalog, kids('3 0 R', 1), kids('2 0 R', 1)]), damaged],
  ['an object that is itself', pdf([catalog, kids('3 0 R', 1), '3 0 R']), 'stamped'],
  ['30,000 times the same page', pdf([catalog, kids('3 0 R '.repeat(30_000), 30_000), page]), tooMuch],
  ['four million pages in two kilobytes', pdf(doubling(22)), tooMuch],
  ['objects that unfold to 300 MB', pdf([...sound, bomb(300 << 20, 1)]), tooMuch],
  ['objects that unfold twice', pdf([...sound, bomb(300 << 20, 2)]), tooMuch],
  ['a sound one again', pdf(sound), 'stamped'],
])('%s', async (_, file, outcome) => {
  expect(await stamp(file)).toEqual(outcome);
});
