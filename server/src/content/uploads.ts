import { FileConfigstore, FileStore } from '@tus/file-store';
import { cleanFileName, refuse } from '@polychron/core';
import { Upload } from '@tus/server';
import { readdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { v7 as newId } from 'uuid';
import { Refused } from '../refused.ts';

/** How long an upload that nobody goes on with, or uses, is kept, in milliseconds. */
const kept = 24 * 3_600_000;

/** Notes about uploads, each whole at every moment: others read them while one is written. */
class Notes extends FileConfigstore {
  override async set(id: string, upload: Upload): Promise<void> {
    const next = join(this.directory, `.${newId()}`);
    await writeFile(next, JSON.stringify(upload));
    await rename(next, join(this.directory, `${id}.json`));
  }
}

/**
 * Files that come in parts, by the protocol tus 1.0: each a file in a folder of its own, named by whose it
 * is. They outlive the server, so that one goes on where one was.
 */
export class Uploads {
  readonly store: FileStore;

  /** Names of uploads that begin, by the requests they begin with. */
  private readonly names = new WeakMap<object, string>();

  constructor(private readonly folder: string) {
    const configstore = new Notes(folder);
    this.store = new FileStore({ directory: folder, expirationPeriodInMilliseconds: kept, configstore });
    // How long an upload will be is said when it begins.
    this.store.extensions = this.store.extensions.filter((name) => name !== 'creation-defer-length');
  }

  /** Takes the place of a new upload of somebody's, which begins with a request; returns its name. */
  async begin(request: object, personId: string, size: number): Promise<string> {
    const id = `${personId}.${newId()}`;
    await this.store.create(new Upload({ id, size, offset: 0, creation_date: new Date().toISOString() }));
    this.names.set(request, id);
    return id;
  }

  /** The name of the upload that begins with a request. */
  begun(request: object): string {
    const id = this.names.get(request);
    if (id === undefined) throw new Error('an upload without a place');
    return id;
  }

  /** Whether an upload is somebody's. */
  isOf(personId: string, id: string): boolean {
    return id.startsWith(`${personId}.`);
  }

  /** Bytes that somebody's uploads have, or will have. */
  async bytesOf(personId: string): Promise<number> {
    const names = await readdir(this.folder);
    const ids = names.filter((name) => this.isOf(personId, name) && !name.endsWith('.json'));
    const sizes = await Promise.all(ids.map(async (id) => (await this.find(id))?.size ?? 0));
    return sizes.reduce((sum, size) => sum + size, 0);
  }

  /**
   * An upload of somebody's that is whole. @throws Refused `upload-not-found`, `upload-unfinished`
   */
  async open(
    personId: string,
    id: string,
  ): Promise<{ stream: ReturnType<FileStore['read']>; fileName: string }> {
    const found = this.isOf(personId, id) ? await this.find(id) : null;
    if (!found) {
      const reason = 'There is no such upload of yours; it may have waited too long. Send the file again.';
      throw new Refused(refuse('notFound', 'upload-not-found', reason));
    }
    const { offset, size } = found;
    if (offset !== size) {
      const reason = `The upload has ${offset} of ${size} bytes. Go on with it first.`;
      throw new Refused(refuse('conflict', 'upload-unfinished', reason, { offset, size }));
    }
    return { stream: this.store.read(id), fileName: cleanFileName(found.metadata?.['filename'] ?? '') };
  }

  private async find(id: string) {
    const names = await readdir(this.folder);
    if (!names.includes(id) || id.endsWith('.json')) return null;
    return this.store.getUpload(id).catch(ifGone);
  }

  /** Removes an upload that was used, perhaps by another request too. */
  async remove(id: string): Promise<void> {
    await this.store.remove(id).catch(ifGone);
  }

  /** Removes uploads nobody went on with; returns how many. */
  clear(): Promise<number> {
    return this.store.deleteExpired();
  }
}

/** Null for an upload that was used or went meanwhile; anything else is a fault. */
function ifGone(error: unknown): null {
  if ((error as { status_code?: number }).status_code === 404) return null;
  throw error;
}
