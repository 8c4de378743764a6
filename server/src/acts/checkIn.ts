import type * as contract from '@polychron/contract';
import { checkIn, type CheckIn, refuseCheckIn } from '@polychron/core';
import { readFile } from 'node:fs/promises';
import { admit, heldByCaller } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { readContent, storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import type { Held } from '../store/custody.ts';
import { type GivenFile, holding, marksOf } from './marks.ts';
import { perform, madeAnswer } from './perform.ts';

/** Lets only the holder through, before an upload is read; returns what they hold. */
export async function admitCheckIn(asker: Asker, documentId: string): Promise<Held> {
  const held = await heldByCaller(asker, documentId);
  if (held) return held;
  const { document } = await admit(asker, documentId, (access) =>
    refuseCheckIn(access.document, access.actor),
  );
  throw new Error(`${document.number} is held by the caller after all`);
}

/** A check-in as it is asked for; what the file says of itself is looked at here. */
export type CheckInCommand = Omit<CheckIn, 'content' | 'taken' | 'sameButForMark'>;

/** Checks in, with a file or with what was saved before; `held` is what `admitCheckIn` returned. */
export async function performCheckIn(
  asker: Asker,
  documentId: string,
  command: CheckInCommand,
  from: { held: Held; file: StagedFile | null },
): Promise<contract.MadeVersion> {
  const { context } = asker;
  const { held, file } = from;
  const given = file ? stagedFile(file) : keptFile(asker, held);
  const marks = given && (await marksOf(context, held, given));
  const performed = await perform(
    asker,
    documentId,
    ({ document, actor }, now) => {
      const { custody } = document;
      const facts = file?.facts ?? custody?.workingCopy;
      const said = custody && facts ? holding(marks, facts, custody.base.content) : {};
      return checkIn(document, actor, { ...command, ...said, content: file?.facts ?? null }, now);
    },
    async (tx) => {
      if (file) await storeContent(context, file, file.facts.sha256, tx);
    },
  );
  return madeAnswer(asker, performed);
}

/** An uploaded file, read from where it is staged. */
export const stagedFile = ({ facts, path }: StagedFile): GivenFile => ({
  facts,
  bytes: () => readFile(path),
});

function keptFile({ context }: Asker, { workingCopy: facts }: Held): GivenFile | null {
  return facts && { facts, bytes: () => readContent(context, facts.sha256) };
}
