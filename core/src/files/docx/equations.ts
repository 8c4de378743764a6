import { child, type Element, elements, text } from '../xml/xml.ts';

/**
 * An equation as one line (ECMA-376 part 1, 22.1; linear forms after Unicode Technical Note 28): `1/2`,
 * `10^3`, `x_1`, `√(8)`, `∛8`, `∑_(i=1)^n x`. What is more than a number or a name stands in parentheses.
 */
export function linearEquation(element: Element): string {
  const form = forms[element.name];
  if (form) return form(element);
  if (element.name === 'm:t' || element.name === 'w:t') return text(element);
  return /Pr$/.test(element.name) ? '' : elements(element).map(linearEquation).join('');
}

const part = (element: Element, name: string): string => {
  const found = child(element, name);
  return found ? linearEquation(found) : '';
};
const value = (element: Element, properties: string, name: string): string | undefined =>
  child(child(element, properties), name)?.attributes['m:val'];

/** A part that is more than one number or name, in parentheses. */
const grouped = (words: string): string =>
  /^[\p{L}\p{M}]*$|^[\p{N}.,]*$/u.test(words) ? words : `(${words})`;
const scripts = (element: Element): string => {
  const [below, above] = [part(element, 'm:sub'), part(element, 'm:sup')];
  return `${below === '' ? '' : `_${grouped(below)}`}${above === '' ? '' : `^${grouped(above)}`}`;
};

const forms: Readonly<Record<string, (element: Element) => string>> = {
  'm:f': (element) => {
    const bar = value(element, 'm:fPr', 'm:type') === 'noBar' ? '¦' : '/';
    return `${grouped(part(element, 'm:num'))}${bar}${grouped(part(element, 'm:den'))}`;
  },
  'm:sSup': (element) => grouped(part(element, 'm:e')) + scripts(element),
  'm:sSub': (element) => grouped(part(element, 'm:e')) + scripts(element),
  'm:sSubSup': (element) => grouped(part(element, 'm:e')) + scripts(element),
  'm:sPre': (element) => scripts(element) + grouped(part(element, 'm:e')),
  'm:rad': (element) => {
    const degree = part(element, 'm:deg');
    const inside = part(element, 'm:e');
    const simple = { '': '√', '2': '√', '3': '∛', '4': '∜' }[degree];
    return simple ? `${simple}${grouped(inside)}` : `√(${degree}&${inside})`;
  },
  'm:nary': (element) => {
    const sign = value(element, 'm:naryPr', 'm:chr') ?? '∫';
    return `${sign}${scripts(element)} ${grouped(part(element, 'm:e'))}`;
  },
  'm:d': (element) => {
    const sign = (name: string, usual: string): string => value(element, 'm:dPr', name) ?? usual;
    const inside = elements(element, 'm:e').map(linearEquation).join(sign('m:sepChr', '|'));
    return `${sign('m:begChr', '(')}${inside}${sign('m:endChr', ')')}`;
  },
  'm:func': (element) => `${part(element, 'm:fName')} ${grouped(part(element, 'm:e'))}`,
  'm:limLow': (element) => `${part(element, 'm:e')}_${grouped(part(element, 'm:lim'))}`,
  'm:limUpp': (element) => `${part(element, 'm:e')}^${grouped(part(element, 'm:lim'))}`,
  'm:acc': (element) => grouped(part(element, 'm:e')) + (value(element, 'm:accPr', 'm:chr') ?? '\u0302'),
  'm:bar': (element) => `${grouped(part(element, 'm:e'))}\u0305`,
  'm:m': (element) => {
    const rows = elements(element, 'm:mr').map((each) => elements(each, 'm:e').map(linearEquation).join('&'));
    return `■(${rows.join('@')})`;
  },
  'm:eqArr': (element) => `█(${elements(element, 'm:e').map(linearEquation).join('@')})`,
};
