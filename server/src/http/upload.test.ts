import { nameInDisposition } from './upload.ts';

describe('the file name of a Content-Disposition header', () => {
  test.each([
    // RFC 6266, section 5, examples.
    ['Attachment; filename=example.html', 'example.html'],
    ['INLINE; FILENAME= "an example.html"', 'an example.html'],
    ["attachment; filename*= UTF-8''%e2%82%ac%20rates", '€ rates'],
    ['attachment; filename="EURO rates"; filename*=utf-8\'\'%e2%82%ac%20rates', '€ rates'],
    // Quoted pairs: RFC 9110, section 5.6.4.
    ['attachment; filename="a \\"b\\" c.docx"', 'a "b" c.docx'],
    // A broken extended name gives way to the plain one.
    ['attachment; filename="plain.docx"; filename*=UTF-8\'\'%e2%82', 'plain.docx'],
  ])('%s', (header, name) => {
    expect(nameInDisposition(header)).toBe(name);
  });

  test.each([undefined, '', 'attachment', 'inline; name=x'])('%s has none', (header) => {
    expect(nameInDisposition(header)).toBeNull();
  });
});
