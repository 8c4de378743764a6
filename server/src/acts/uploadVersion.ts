import type * as contract from '@polychron/contract';
import { isRefusal, upload, type Upload } from '@polychron/core';
import { admit, findVersion } from '../access/admission.ts';
import type { Admitted, Asker } from '../access/caller.ts';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import { stagedFile } from './checkIn.ts';
import { holding, marksOf } from './marks.ts';
import { perform, madeAnswer } from './perform.ts';

/** Lets through whoever could upload a version now, before the upload is read. */
export async function admitUpload(asker: Asker, documentId: string): Promise<Admitted> {
  return admit(asker, documentId, ({ document, actor }) => {
    const { latest } = document;
    const faultless: Upload = {
      level: 'major',
      comment: 'x',
      confirm: ['same-bytes'],
      keepFileName: false,
      content: { ...latest.content, size: 0 },
      basedOn: latest,
    };
    const outcome = upload(document, actor, faultless, asker.context.clock());
    return isRefusal(outcome) ? outcome : null;
  });
}

/** An upload as it is asked for; `basedOn` names the version the file was edited from. */
export type UploadCommand = Omit<Upload, 'content' | 'basedOn' | 'taken' | 'sameButForMark'> & {
  basedOn: string;
};

/** A new version without a check-out, where the rules allow; `admitted` is what `admitUpload` returned. */
export async function performUpload(
  asker: Asker,
  admitted: Admitted,
  command: UploadCommand,
  file: StagedFile,
): Promise<contract.MadeVersion> {
  const { context } = asker;
  const { id } = admitted.document;
  const marks = await marksOf(context, admitted, stagedFile(file));
  const performed = await perform(
    asker,
    id,
    async (access, now, tx) => {
      const { document, actor } = access;
      const said = holding(marks, file.facts, document.latest.content);
      const basedOn = await findVersion(asker, access, command.basedOn, tx);
      return upload(document, actor, { ...command, ...said, content: file.facts, basedOn }, now);
    },
    (tx) => storeContent(context, file, file.facts.sha256, tx),
  );
  return madeAnswer(asker, performed);
}
