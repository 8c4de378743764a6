/**
 * Signs of fonts that put pictures where letters are, by their place in the font. Symbol: Adobe's mapping
 * of its Symbol encoding to Unicode; Wingdings: the signs documents use most (both from memory, common
 * practice).
 */
const symbol: Readonly<Record<number, string>> = {
  ...row(0x22, '∀'),
  ...row(0x24, '∃'),
  ...row(0x27, '∋'),
  ...row(0x2a, '∗'),
  ...row(0x2d, '−'),
  ...row(0x40, '≅ΑΒΧ∆ΕΦΓΗΙϑΚΛΜΝΟΠΘΡΣΤΥςΩΞΨΖ'),
  ...row(0x5c, '∴'),
  ...row(0x5e, '⊥'),
  ...row(0x61, 'αβχδεφγηιϕκλµνοπθρστυϖωξψζ'),
  ...row(0xa1, 'ϒ′≤⁄∞ƒ♣♦♥♠↔←↑→↓°±″≥×∝∂•÷≠≡≈…'),
  ...row(0xbf, '↵ℵℑℜ℘⊗⊕∅∩∪⊃⊇⊄⊂⊆∈∉∠∇®©™∏√⋅¬∧∨⇔⇐⇑⇒⇓◊〈'),
  ...row(0xe5, '∑'),
  ...row(0xf1, '〉∫'),
};
const wingdings: Readonly<Record<number, string>> = {
  ...row(0x6c, '●'),
  ...row(0x6e, '■'),
  ...row(0x6f, '□'),
  ...row(0x71, '❑❒'),
  ...row(0x76, '❖'),
  ...row(0xa1, '○'),
  ...row(0xa7, '▪'),
  ...row(0xa8, '☐'),
  ...row(0xd8, '➢'),
  ...row(0xdf, '←→↑↓'),
  ...row(0xfb, '✗✓☒☑'),
};
const fonts: Readonly<Record<string, Readonly<Record<number, string>>>> = { symbol, wingdings };

function row(first: number, signs: string): Record<number, string> {
  return Object.fromEntries([...signs].map((sign, at) => [first + at, sign]));
}

/** Whether a code point stands for a place in such a font (ECMA-376 part 1, 17.3.3.30). */
const isSymbolCode = (code: number): boolean => code >= 0xf000 && code <= 0xf0ff;

/**
 * The sign at a place in a font; one that is not known here says which it is, so that two are told apart.
 * @param code 0xF000 to 0xF0FF for such fonts, else a code point
 */
export function symbolSign(font: string, code: number): string {
  const table = fonts[font.toLowerCase()];
  if (!isSymbolCode(code) && !table) return String.fromCodePoint(Math.min(code, 0x10ffff));
  const place = code & 0xff;
  const known = table?.[place];
  if (known !== undefined) return known;
  // Digits, and signs that stand where they always do.
  if (font.toLowerCase() === 'symbol' && place >= 0x20 && place < 0x7f) return String.fromCharCode(place);
  return `[${font || 'symbol'} ${place.toString(16).toUpperCase()}]`;
}
