import { readAll, writeAll } from './zip/writeZip.ts';
import { isRefusal } from '../document/refusal.ts';
import {
  customProperties,
  removeCustomProperty,
  removeUserDefined,
  setCustomProperty,
  setUserDefined,
  userDefined,
} from './customProperties.ts';

/** Which version a file was taken from: written into it when it is downloaded to be worked on. */
export interface VersionMark {
  number: string;
  label: string;
  versionId: string;
}

const name = 'Polychron version';
const types = '[Content_Types].xml';
const relations = '_rels/.rels';

/** Files that can carry a mark, by their ending: office packages (ECMA-376) and OpenDocument (ODF 1.3). */
export const carriesMark = (fileName: string): boolean => /\.(docx|xlsx|odt)$/i.test(fileName);

/** Larger files go out as they are, without a mark: they would be unfolded and folded for it. */
export const largestMarked = 64 << 20;

/**
 * The file with the mark as a custom document property (ECMA-376 part 1, 22.3; ODF 1.3 part 3, 4.3.2.10).
 * Every other part keeps its bytes.
 * @returns the bytes unchanged where the file is none that can carry it
 */
export function writeMark(bytes: Uint8Array, mark: VersionMark): Uint8Array {
  const parts = packageOf(bytes);
  if (!parts) return bytes;
  removeMark(parts);
  const value = `${mark.number} ${mark.label} ${mark.versionId}`;
  if (parts.has('meta.xml')) return setUserDefined(parts, name, value) ? writeAll(parts) : bytes;
  setCustomProperty(parts, name, value);
  return writeAll(parts);
}

/** The mark a file carries; null for one without, or of another kind. */
export function readMark(bytes: Uint8Array): VersionMark | null {
  const parts = packageOf(bytes);
  if (!parts) return null;
  const text = userDefined(parts).get(name) ?? customProperties(parts).get(name);
  const found = text === undefined ? null : /^\s*(\S.*\S|\S)\s(\S+)\s([0-9a-f-]{36})\s*$/.exec(text);
  return found
    ? { number: found[1] as string, label: found[2] as string, versionId: found[3] as string }
    : null;
}

/**
 * What the file holds beside the mark: its parts in the order of their names. Two files that differ only in
 * their mark have the same; a file without any is itself.
 */
export function withoutMark(bytes: Uint8Array): [name: string, bytes: Uint8Array][] | null {
  const parts = packageOf(bytes);
  if (!parts) return null;
  removeMark(parts);
  return [...parts].sort(([a], [b]) => (a < b ? -1 : 1));
}

/** The parts of an office package or an OpenDocument file; null where the bytes are neither. */
export function packageOf(bytes: Uint8Array): Map<string, Uint8Array> | null {
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) return null;
  const parts = readAll(bytes);
  if (isRefusal(parts)) return null;
  const isOpenXml = parts.has(types) && parts.has(relations);
  const isOpenDocument = parts.has('meta.xml') && parts.has('mimetype');
  return isOpenXml || isOpenDocument ? parts : null;
}

function removeMark(parts: Map<string, Uint8Array>): void {
  removeUserDefined(parts, name);
  removeCustomProperty(parts, name);
}
