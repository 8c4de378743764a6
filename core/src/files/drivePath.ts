/** A segment of an address may hold no slash; what looks like one stands for it. */
export const segmentSlash = '\uff0f';

/** A name as a segment of an address on the drive. */
export const toSegment = (name: string): string => name.replaceAll('/', segmentSlash);

/** The name that a segment of an address on the drive stands for. */
export const fromSegment = (segment: string): string => segment.replaceAll(segmentSlash, '/');

/** Where the histories of a library stand on the drive. */
export const versionsSegment = 'versions';

/** Subjects as segments of an address; a first one that is called like the histories has a line behind it. */
export const subjectSegments = (subjects: readonly string[]): string[] =>
  subjects.map((name, place) => (place === 0 && /^versions_*$/.test(name) ? `${name}_` : toSegment(name)));

/** Signs that some file systems have no names with. */
const unfit = /[\\:*?"<>|]|\p{Cc}/gu;
/** Bytes of a name at most: file systems take 255. */
const longestName = 240;
const bytesIn = (text: string): number => new TextEncoder().encode(text).length;

/** What a document is called on the drive: its number, by which it is found, title, and kind of file. */
export function driveFileName({
  number,
  title,
  fileName,
}: {
  number: string;
  title: string;
  fileName: string;
}): string {
  const extension = /[^.](\.[^.]*)$/.exec(fileName)?.[1]?.slice(0, 20) ?? '';
  const signs = Array.from(toSegment(title).replace(unfit, '-').trim());
  const named = (): string => `${toSegment(number)} ${signs.join('').trimEnd()}${extension}`;
  while (signs.length > 0 && bytesIn(named()) > longestName) signs.pop();
  return named();
}

/** The segments of a document's address on the drive: library, subjects, name. */
export const drivePath = (document: {
  code: string;
  subjects: readonly string[];
  number: string;
  title: string;
  fileName: string;
}): string[] => [document.code, ...subjectSegments(document.subjects), driveFileName(document)];
