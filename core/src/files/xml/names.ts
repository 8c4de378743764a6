/**
 * The prefixes that names are told by here, whatever a file calls them: by namespace, the transitional and
 * the strict ones alike (ECMA-376 part 1, 22.9.2.1 and part 4, annex A; names of later additions by usage).
 */
const ooxml = 'http://schemas.openxmlformats.org';
const strict = 'http://purl.oclc.org/ooxml';
const microsoft = 'http://schemas.microsoft.com/office';

const usual: Readonly<Record<string, readonly string[]>> = {
  '': [`${ooxml}/package/2006/relationships`, `${ooxml}/package/2006/content-types`],
  w: [`${ooxml}/wordprocessingml/2006/main`, `${strict}/wordprocessingml/main`],
  r: [`${ooxml}/officeDocument/2006/relationships`, `${strict}/officeDocument/relationships`],
  m: [`${ooxml}/officeDocument/2006/math`, `${strict}/officeDocument/math`],
  a: [`${ooxml}/drawingml/2006/main`, `${strict}/drawingml/main`],
  c: [`${ooxml}/drawingml/2006/chart`, `${strict}/drawingml/chart`],
  dgm: [`${ooxml}/drawingml/2006/diagram`, `${strict}/drawingml/diagram`],
  pic: [`${ooxml}/drawingml/2006/picture`, `${strict}/drawingml/picture`],
  wp: [`${ooxml}/drawingml/2006/wordprocessingDrawing`, `${strict}/drawingml/wordprocessingDrawing`],
  mc: [`${ooxml}/markup-compatibility/2006`],
  v: ['urn:schemas-microsoft-com:vml'],
  o: ['urn:schemas-microsoft-com:office:office'],
  w10: ['urn:schemas-microsoft-com:office:word'],
  w14: [`${microsoft}/word/2010/wordml`],
  w15: [`${microsoft}/word/2012/wordml`],
  wp14: [`${microsoft}/word/2010/wordprocessingDrawing`],
  wps: [`${microsoft}/word/2010/wordprocessingShape`],
  wpg: [`${microsoft}/word/2010/wordprocessingGroup`],
  wpc: [`${microsoft}/word/2010/wordprocessingCanvas`],
  wpi: [`${microsoft}/word/2010/wordprocessingInk`],
};

const byNamespace = new Map(
  Object.entries(usual).flatMap(([prefix, uris]) => uris.map((uri) => [uri, prefix] as const)),
);

/** The usual prefixes, with the namespace each is written for. */
export const usualNamespaces = new Map(Object.entries(usual).map(([prefix, [uri = '']]) => [prefix, uri]));

/** Prefixes of one part: the usual ones, and what else its own namespaces are called. */
export class Prefixes {
  /** Namespaces by the prefix they are told by. */
  readonly namespaces = new Map<string, string>();
  private readonly prefixes = new Map<string, string>();

  /** The prefix a namespace is told by; `own` is what the file calls it. */
  of(uri: string, own: string): string {
    if (uri === '') return '';
    const known = this.prefixes.get(uri);
    if (known !== undefined) return known;
    const made = byNamespace.get(uri) ?? this.free(own || 'ns');
    this.prefixes.set(uri, made);
    this.namespaces.set(made, uri);
    return made;
  }

  private free(own: string): string {
    let name = own;
    for (let count = 2; this.namespaces.has(name) || usualNamespaces.has(name); count += 1)
      name = `${own}${count}`;
    return name;
  }
}
