import { parse } from 'content-disposition';
import type { Readable } from 'node:stream';
import { Busboy, type BusboyHeaders, type BusboyInstance } from '@fastify/busboy';
import type { Request } from 'express';
import { refuse } from '@polychron/core';
import { stageFile, type StagedFile } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';

/** A multipart form: its text fields, and the file if one came. */
interface Form {
  fields: Record<string, string>;
  file: StagedFile | null;
}

const limits = { files: 1, fields: 30, fieldNameSize: 100, fieldSize: 2 << 20, parts: 40 };
/** That a form is not as it should be. */
export const malformed = (why: string): Refused =>
  new Refused(
    refuse('invalid', 'malformed-upload', `The upload is not a multipart form as expected: ${why}.`),
  );

/** That a form has no file. */
export const fileMissing = (): Refused =>
  new Refused(refuse('invalid', 'file-missing', 'The form has no file. Send it as the part "file".'));

/**
 * Reads a multipart form (RFC 7578), the file straight into the staging folder.
 * @throws Refused `malformed-upload`, or what staging the file refused; nothing is left behind then
 */
async function readForm(context: Context, req: Request): Promise<Form> {
  if (!req.is('multipart/form-data')) throw malformed('its type is not multipart/form-data');
  const fields: Record<string, string> = {};
  let incoming: Readable | null = null;
  let staging: Promise<StagedFile> | null = null;
  try {
    await new Promise<void>((resolve, reject) => {
      const parser = openParser(req);
      let signs = 0;
      parser.on('field', (name, value, nameTruncated, valueTruncated) => {
        signs += value.length;
        if (nameTruncated || valueTruncated) reject(malformed(`the field ${name.slice(0, 40)} is too long`));
        else if (signs > limits.fieldSize) reject(malformed('its fields are too long together'));
        else if (name in fields) reject(malformed(`the field ${name} comes twice`));
        else fields[name] = value;
      });
      parser.on('file', (name, stream, fileName) => {
        if (name !== 'file') {
          stream.resume();
          reject(malformed(`the file comes as ${name}, not as "file"`));
          return;
        }
        incoming = stream;
        // Whatever ends it is told by the form; before staging has begun nobody else listens.
        stream.on('error', () => undefined);
        staging = stageFile(context, stream, fileName ?? '');
        staging.catch((error: unknown) => {
          stream.resume();
          reject(error as Error);
        });
      });
      for (const event of ['filesLimit', 'fieldsLimit', 'partsLimit'] as const)
        parser.on(event, () => reject(malformed('it has too many parts')));
      parser.on('error', (error) =>
        reject(malformed(error instanceof Error ? error.message : 'it is damaged')),
      );
      parser.on('finish', resolve);
      req.on('aborted', () => reject(malformed('it was cut off')));
      req.pipe(parser);
    });
    return { fields, file: await staging };
  } catch (error) {
    req.unpipe();
    req.resume();
    // A file still on its way would wait for ever; one that is staged already goes. What staging itself
    // refused is gone.
    (incoming as Readable | null)?.destroy(error as Error);
    await (staging as Promise<StagedFile> | null)?.then(
      (file) => file.remove(),
      () => undefined,
    );
    throw error;
  }
}

function openParser(req: Request): BusboyInstance {
  try {
    return new Busboy({ headers: req.headers as BusboyHeaders, limits });
  } catch (error) {
    throw malformed(error instanceof Error ? error.message : 'it cannot be read');
  }
}

/**
 * Reads a form whose file comes in it, or was sent before in parts and is named as `upload`.
 * @throws Refused `upload-not-found`, `upload-unfinished`, or as `readForm`
 */
export async function readFormOrUpload(context: Context, req: Request): Promise<Form> {
  const form = await readForm(context, req);
  const { upload } = form.fields;
  if (upload === undefined) return form;
  if (form.file) {
    await form.file.remove();
    throw malformed('it has both a file and an upload');
  }
  const { stream, fileName } = await context.uploads.open(req.caller?.id ?? '', upload);
  return { fields: form.fields, file: await stageFile(context, stream, fileName) };
}

/**
 * Reads a file sent as it is, or as the file of a form. Its name comes from the form or a Content-Disposition
 * header, else `fallbackName`. `upload` names the upload it was sent by before.
 */
export async function readFileBody(
  context: Context,
  req: Request,
  fallbackName: string,
): Promise<{ file: StagedFile; upload: string | null }> {
  if (req.is('multipart/form-data')) {
    const { fields, file } = await readFormOrUpload(context, req);
    if (!file) throw malformed('it has no file');
    return { file, upload: fields['upload'] ?? null };
  }
  const name = nameInDisposition(req.get('content-disposition')) ?? fallbackName;
  return { file: await stageFile(context, req, name), upload: null };
}

/**
 * Reads a small body as it is, into memory, and no further than it may be long.
 * @throws Refused `file-too-large`; the rest is not read, and the connection ends with the answer
 */
export async function readSmallBody(req: Request, limit: number): Promise<Buffer> {
  const tooLarge = (): Refused => {
    req.res?.set('Connection', 'close');
    const reason = `No more than ${limit} bytes are taken in here.`;
    return new Refused(refuse('invalid', 'file-too-large', reason, { limit }));
  };
  if (Number(req.get('content-length') ?? 0) > limit) throw tooLarge();
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of req as AsyncIterable<Buffer>) {
    size += part.length;
    if (size > limit) throw tooLarge();
    parts.push(part);
  }
  return Buffer.concat(parts);
}

/**
 * The file name of a Content-Disposition header (RFC 6266, `filename*` before `filename`); null without a
 * usable one.
 */
export function nameInDisposition(header: string | undefined): string | null {
  if (!header) return null;
  try {
    return parse(header).parameters['filename'] || null;
  } catch (error) {
    // What is no such header names no file; the registered name is taken.
    if (error instanceof TypeError) return null;
    throw error;
  }
}
