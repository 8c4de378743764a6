import { isRefusal } from '../../document/refusal.ts';
import { descendants, type Element, parseXml } from '../xml/xml.ts';
import { linearEquation } from './equations.ts';
import { symbolSign } from './symbols.ts';

const names = 'xmlns:m="http://schemas.openxmlformats.org/officeDocument/2006/math"';
function linear(inner: string): string {
  const parsed = parseXml(`<m:oMath ${names}>${inner}</m:oMath>`, 'test');
  if (isRefusal(parsed)) throw new Error(parsed.reason);
  return linearEquation(parsed.root);
}
const run = (words: string): string => `<m:r><m:t>${words}</m:t></m:r>`;
const e = (words: string, name = 'e'): string => `<m:${name}>${run(words)}</m:${name}>`;

test.each([
  [
    '½·10³',
    `<m:f>${e('1', 'num')}${e('2', 'den')}</m:f>${run('·')}<m:sSup>${e('10')}${e('3', 'sup')}</m:sSup>`,
    '1/2·10^3',
  ],
  ['12·103', run('12·103'), '12·103'],
  ['a sum over a fraction', `<m:f>${e('a+b', 'num')}${e('2', 'den')}</m:f>`, '(a+b)/2'],
  ['a cube root', `<m:rad>${e('3', 'deg')}${e('8')}</m:rad>`, '∛8'],
  ['a square root', `<m:rad><m:radPr><m:degHide m:val="1"/></m:radPr><m:deg/>${e('x+1')}</m:rad>`, '√(x+1)'],
  ['a fifth root', `<m:rad>${e('5', 'deg')}${e('x')}</m:rad>`, '√(5&x)'],
  [
    'a sum',
    `<m:nary><m:naryPr><m:chr m:val="∑"/></m:naryPr>${e('i=1', 'sub')}${e('n', 'sup')}${e('x')}</m:nary>`,
    '∑_(i=1)^n x',
  ],
  [
    'brackets',
    `<m:d><m:dPr><m:begChr m:val="["/><m:endChr m:val="]"/></m:dPr>${e('1')}${e('2')}</m:d>`,
    '[1|2]',
  ],
  ['a function', `<m:func>${e('sin', 'fName')}${e('x')}</m:func>`, 'sin x'],
  ['indices', `<m:sSubSup>${e('x')}${e('1', 'sub')}${e('2', 'sup')}</m:sSubSup>`, 'x_1^2'],
  ['a matrix', `<m:m><m:mr>${e('1')}${e('2')}</m:mr><m:mr>${e('3')}${e('4')}</m:mr></m:m>`, '■(1&2@3&4)'],
])('%s', (_, inner, line) => {
  expect(linear(inner)).toBe(line);
});

test('signs of symbol fonts are told apart', () => {
  const signs = [0xf0b3, 0xf0a3, 0xf0b1, 0xf061, 0xf032].map((code) => symbolSign('Symbol', code));
  expect(signs).toEqual(['≥', '≤', '±', 'α', '2']);
  expect([0xf0fe, 0xf0a8, 0xf0fd, 0xf0fc].map((code) => symbolSign('Wingdings', code))).toEqual([
    '☑',
    '☐',
    '☒',
    '✓',
  ]);
  expect(symbolSign('Wingdings', 0xf04a)).toBe('[Wingdings 4A]');
  expect(symbolSign('Webdings', 0xf061)).toBe('[Webdings 61]');
  expect(symbolSign('Cambria', 0x2265)).toBe('≥');
});

test('namespaces and properties of an equation are no words of it', () => {
  const parsed = parseXml(
    `<m:oMath ${names}><m:r><m:rPr><m:sty m:val="p"/></m:rPr><m:t>k</m:t></m:r></m:oMath>`,
    'test',
  );
  const root = (parsed as { root: Element }).root;
  expect([linearEquation(root), descendants(root, 'm:t').length]).toEqual(['k', 1]);
});
