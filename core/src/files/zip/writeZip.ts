import { zipSync, type Zippable } from 'fflate';
import { isRefusal, type Refusal } from '../../document/refusal.ts';
import { listZip, readEntry } from './readZip.ts';

/** Every file of an archive by its name, in the archive's order. */
export function readAll(bytes: Uint8Array): Map<string, Uint8Array> | Refusal {
  const entries = listZip(bytes);
  if (isRefusal(entries)) return entries;
  const parts = new Map<string, Uint8Array>();
  for (const entry of entries) {
    const part = readEntry(bytes, entry);
    if (isRefusal(part)) return part;
    parts.set(entry.name, part);
  }
  return parts;
}

/** Pictures and the like are packed already. */
const packed = /\.(png|jpe?g|gif|emf|wmf|zip|mp4)$/i;
/** Archives of one content are the same bytes whenever they are made. */
const mtime = new Date('1980-01-01T00:00:00');

/**
 * An archive of the files, in their order; `mimetype` is stored as it is, as OpenDocument asks (ODF 1.3 part
 * 2, 3.3).
 */
export function writeAll(parts: ReadonlyMap<string, Uint8Array>): Uint8Array {
  const files: Zippable = {};
  for (const [name, bytes] of parts)
    files[name] = [bytes, { level: name === 'mimetype' || packed.test(name) ? 0 : 6 }];
  return zipSync(files, { mtime });
}
