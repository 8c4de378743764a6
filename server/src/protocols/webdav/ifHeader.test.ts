import { holds, readIf, tokensIn } from './ifHeader.ts';

const locked = (tokens: string[], tag: string | null = null) => ({ tokens: new Set(tokens), tag });
const lock = 'urn:uuid:181d4fae-7d8c-11d0-a765-00a0c91e6bf2';
const other = 'urn:uuid:58f202ac-22cf-11d1-b12d-002035b29092';

// The examples of RFC 4918, 10.4.6 to 10.4.9.
test('no-tag production: a list of a token and a tag, or one of another tag', () => {
  const lists = readIf(`(<${lock}>\n  ["I am an ETag"])\n(["I am another ETag"])`);
  const any = (state: ReturnType<typeof locked>): boolean => lists.some((list) => holds(list, state));
  expect(any(locked([lock], '"I am an ETag"'))).toBe(true);
  expect(any(locked([], '"I am another ETag"'))).toBe(true);
  expect(any(locked([lock], '"something else"'))).toBe(false);
  expect(any(locked([], '"I am an ETag"'))).toBe(false);
  expect([...tokensIn(lists)]).toEqual([lock]);
});

test('Not: not locked by one token, and locked by another', () => {
  const [list] = readIf(`(Not <${lock}>\n<${other}>)`);
  if (!list) throw new Error('no list');
  expect(holds(list, locked([other]))).toBe(true);
  expect(holds(list, locked([lock, other]))).toBe(false);
  expect(holds(list, locked([]))).toBe(false);
});

test('(Not <DAV:no-lock>) holds whatever is locked', () => {
  const lists = readIf(`(<${lock}>)\n(Not <DAV:no-lock>)`);
  expect(lists.map((list) => holds(list, locked([])))).toEqual([false, true]);
});

test('tagged lists: each about the resource named before it', () => {
  const lists = readIf(
    `</resource1>\n(<${lock}> [W/"A weak ETag"]) (["strong ETag"])\n<http://www.example.com/specs/>\n(<${other}>)`,
  );
  expect(lists.map(({ resource }) => resource)).toEqual([
    '/resource1',
    '/resource1',
    'http://www.example.com/specs/',
  ]);
  expect(lists[0]?.conditions[1]).toEqual({ not: false, kind: 'tag', value: 'W/"A weak ETag"' });
});

test.each(['', '()', '(', '(<a>', '<a>', '(Not)', 'words', '(<a>) b', '((<a>))', '["a"]'])(
  '%p is none',
  (header) => {
    expect(() => readIf(header)).toThrow('cannot be read');
  },
);
