/** Types known by a file name's ending. Others are kept as they are, without a reading. */
const types: Record<string, string> = {
  docx: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  docm: 'application/vnd.ms-word.document.macroEnabled.12',
  dotx: 'application/vnd.openxmlformats-officedocument.wordprocessingml.template',
  dotm: 'application/vnd.ms-word.template.macroEnabled.12',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  odt: 'application/vnd.oasis.opendocument.text',
  pdf: 'application/pdf',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  md: 'text/markdown',
  txt: 'text/plain',
  csv: 'text/csv',
  xml: 'application/xml',
};

/** The media type by the file name's ending, `application/octet-stream` for unknown ones. */
export function mediaTypeOf(fileName: string): string {
  return types[/\.([a-z0-9]+)$/i.exec(fileName)?.[1]?.toLowerCase() ?? ''] ?? 'application/octet-stream';
}

/** Endings of WordprocessingML packages (ECMA-376 part 1, 11.3.10), with macros or in one XML file, too. */
const wordProcessing = ['docx', 'docm', 'dotx', 'dotm', 'xml'];

/** The reader for a media type, or null where there is none yet. */
export function readerOf(mediaType: string): 'docx' | 'text' | null {
  if (wordProcessing.some((ending) => mediaType === types[ending])) return 'docx';
  return mediaType.startsWith('text/') ? 'text' : null;
}

/** How a file is laid out where it is read in the page. */
export type Layout = 'docx' | 'text' | 'markdown' | 'csv';
/** How files of a media type are laid out; null where they are not read in the page. */
export function layoutOf(mediaType: string): Layout | null {
  if (mediaType === types['md']) return 'markdown';
  return mediaType === types['csv'] ? 'csv' : readerOf(mediaType);
}

/** The largest text edited in the page, in bytes; larger ones are edited in a program of their own. */
const largestEdited = 2 << 20;

/** Whether a file is a text that is edited in the page. */
export const canEdit = (mediaType: string, size: number): boolean =>
  readerOf(mediaType) === 'text' && size <= largestEdited;

/** The longest file name kept, in characters; with its ending it fits every common file system. */
const longestName = 120;

/**
 * Makes a given file name harmless: no path, no control or reserved characters, no leading dots, not longer
 * than 120 characters with its ending kept. Letters of all scripts and emoji stay.
 */
export function cleanFileName(given: string): string {
  const last = given.normalize('NFC').split(/[/\\]/).at(-1) ?? '';
  // Control, format and direction-changing characters could make a name read as another.
  const plain = last
    .replace(/[\p{Cc}\p{Cs}\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/gu, '')
    .replace(/[<>:"|?*]/g, '-')
    .replace(/^[\s.]+|[\s.]+$/g, '');
  const ending = /\.[A-Za-z0-9]{1,8}$/.exec(plain)?.[0] ?? '';
  const stem = [...plain.slice(0, plain.length - ending.length)]
    .slice(0, longestName - ending.length)
    .join('')
    .trim();
  return `${stem || 'document'}${ending}`;
}
