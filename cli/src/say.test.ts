import { harmless } from './say.ts';

test('nothing that a terminal obeys is printed; it is seen instead', () => {
  expect(harmless('\u001b]0;title\u0007red\u001b[31m')).toBe('␛]0;title␇red␛[31m');
  expect(harmless('back\b\rspace\u007f\u009b31m')).toBe('back␈␍space␡\ufffd31m');
  expect(harmless('a\u202egnp.exe')).toBe('a\ufffdgnp.exe');
  expect(harmless('Ropeway – “closing”\t🚡\nnext')).toBe('Ropeway – “closing”\t🚡\nnext');
  for (let code = 0; code < 0xa0; code += 1) {
    const sign = String.fromCharCode(code);
    const isObeyed = (code < 0x20 || code >= 0x7f) && !'\t\n'.includes(sign);
    expect(harmless(sign) === sign).toBe(!isObeyed);
  }
});
