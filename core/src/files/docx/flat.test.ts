import { flatParts, isXml } from './flat.ts';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const textOf = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes);
const begin =
  '<?xml version="1.0"?><p:package xmlns:p="http://schemas.microsoft.com/office/2006/xmlPackage">';

test('parts of a document in one XML file are those of its package, pictures decoded, types listed', () => {
  const parts = flatParts(
    bytesOf(
      `${begin}<p:part p:name="/word/document.xml" p:contentType="application/main+xml"><p:xmlData>
<w:document><w:body/></w:document></p:xmlData></p:part><p:part p:name="/word/media/a.png"
 p:contentType="image/png" p:compression="store"><p:binaryData>aGVs
bG8=</p:binaryData></p:part></p:package>`,
    ),
  );
  expect([...(parts?.keys() ?? [])]).toEqual([
    'word/document.xml',
    'word/media/a.png',
    '[Content_Types].xml',
  ]);
  expect(textOf(parts?.get('word/document.xml'))).toBe('<w:document><w:body/></w:document>');
  expect(textOf(parts?.get('word/media/a.png'))).toBe('hello');
  expect(textOf(parts?.get('[Content_Types].xml'))).toContain(
    '<Override PartName="/word/document.xml" ContentType="application/main+xml"/>',
  );
});

test('other XML is none, and no zip is XML; what is no base64 is left out', () => {
  expect(flatParts(bytesOf('<?xml version="1.0"?><note>Two towers</note>'))).toBeNull();
  expect(isXml(bytesOf('\uFEFF  <note/>'))).toBe(true);
  expect(isXml(bytesOf('PK\u0003\u0004'))).toBe(false);
  const broken = flatParts(
    bytesOf(`${begin}<p:part p:name="/a.bin"><p:binaryData>%%%</p:binaryData></p:part></p:package>`),
  );
  expect([...(broken?.keys() ?? [])]).toEqual(['[Content_Types].xml']);
});
