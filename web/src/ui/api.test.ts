import { routes } from '@polychron/contract';
import { addressOf, nameGiven, PageError, ProblemError, sentenceOf } from './api.ts';

test('addresses have their parameters filled in and escaped', () => {
  expect(addressOf(routes.readVersion, { params: { id: 'a b', v: '2~3.0' } })).toBe(
    '/api/v1/documents/a%20b/versions/2~3.0',
  );
  expect(
    addressOf(routes.versionPicture, { params: { id: 'i', v: '1.0', part: 'word/media/image1.png' } }),
  ).toBe('/api/v1/documents/i/versions/1.0/pictures/word%2Fmedia%2Fimage1.png');
  expect(
    addressOf(routes.listDocuments, { params: { id: 'i' }, query: { q: '100% & more', limit: 50 } }),
  ).toBe('/api/v1/libraries/i/documents?q=100%25+%26+more&limit=50');
  // A field that is empty asks for nothing.
  expect(addressOf(routes.listDocuments, { params: { id: 'i' }, query: { q: '', limit: 50 } })).toBe(
    '/api/v1/libraries/i/documents?limit=50',
  );
});

test('a refusal is told as the server says it, anything else as our fault', () => {
  expect(
    sentenceOf(
      new ProblemError({ type: '', title: '', status: 409, code: 'held', detail: 'M. Oduya holds it.' }),
    ),
  ).toBe('M. Oduya holds it.');
  expect(sentenceOf(new PageError('Choose a file first.'))).toBe('Choose a file first.');
  // The cause is for whoever mends it: in the console, under the number that is reported, the same however
  // often it is said.
  const logged = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  const fault = new Error('boom');
  const said = sentenceOf(fault);
  const number = /report fault ([0-9A-Z]+)\.$/.exec(said)?.[1];
  expect(said).not.toContain('boom');
  expect(sentenceOf(fault)).toBe(said);
  expect(logged.mock.calls).toEqual([[`Fault ${number}`, fault]]);
  logged.mockRestore();
});

test('a file has the name the server gives it (RFC 6266, section 5)', () => {
  expect(nameGiven('attachment; filename="OP-014 2.0 opening.docx"')).toBe('OP-014 2.0 opening.docx');
  expect(nameGiven('attachment; filename="EURO rates"; filename*=UTF-8\'\'%e2%82%ac%20rates')).toBe(
    '€ rates',
  );
  expect(nameGiven('attachment; filename=example.html')).toBe('example.html');
  expect(nameGiven(null)).toBe('');
});
