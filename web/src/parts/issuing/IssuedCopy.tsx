import { routes, type Version } from '@polychron/contract';
import { numberWords } from '@polychron/core';
import { useState } from 'react';
import { downloadAs, sentenceOf } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';

interface Props {
  documentId: string;
  version: Version;
  /** What is pressed. */
  children: string;
}

/** Gives a version out as an issued copy: what it is, and how it stands, is written in. */
export function IssuedCopy({ documentId, version, children }: Props) {
  const message = useMessages();
  const [busy, setBusy] = useState(false);
  const give = async (): Promise<void> => {
    setBusy(true);
    try {
      const params = { id: documentId, v: version.label };
      const asked = { params, query: { issued: true } };
      const why = await downloadAs(routes.versionContent, asked, { accept: '*/*' });
      if (why !== null) void message.warning(why, 15);
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    } finally {
      setBusy(false);
    }
  };
  return (
    <button
      type="button"
      className="quiet"
      disabled={busy}
      title={`With number, ${numberWords(version.label)}, status and dates written in, where the file names them`}
      onClick={() => void give()}
    >
      {children}
    </button>
  );
}
