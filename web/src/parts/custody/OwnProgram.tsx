import type { Document } from '@polychron/contract';
import { drivePath } from '@polychron/core';
import { useQuery } from '@tanstack/react-query';
import { Typography } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { sessionQuery } from '../queries.ts';

/**
 * Address schemes that office programs register for their files with the platform; what follows asks to open
 * for editing. Common practice.
 */
const schemes: Record<string, string> = {
  docx: 'ms-word:ofe|u|',
  xlsx: 'ms-excel:ofe|u|',
  pptx: 'ms-powerpoint:ofe|u|',
  odt: 'vnd.libreoffice.command:ofe|u|',
  ods: 'vnd.libreoffice.command:ofe|u|',
};

/** Where a document stands on the drive, for whoever works on it. */
function addressOn(drive: string, { library, number, title, latest }: Document): string {
  const { fileName, fields } = latest;
  const names = drivePath({ code: library.code, subjects: fields.subject ?? [], number, title, fileName });
  return drive + names.map(encodeURIComponent).join('/');
}

/**
 * The document opened, locked and saved from the program that its file is for.
 * @param props.asked whether it was asked for already, in the document's row
 */
export function OwnProgram({ document, asked }: { document: Document; asked: boolean }) {
  const { data: session } = useQuery(sessionQuery);
  const [shown, setShown] = useState(asked);
  if (!session) return null;
  const address = addressOn(session.drive, document);
  const scheme = schemes[document.latest.fileName.split('.').at(-1)?.toLowerCase() ?? ''];
  return (
    <div className="own-program">
      <button type="button" className="quiet" aria-expanded={shown} onClick={() => setShown(!shown)}>
        Work in its own program
      </button>
      {shown && (
        <section aria-label="Work in its own program">
          <p>
            <Typography.Text code copyable={{ text: address, tooltips: ['Copy the address', 'Copied'] }}>
              {address}
            </Typography.Text>
          </p>
          <p className="muted">
            {scheme && (
              <>
                <a href={scheme + address}>Open it there</a>, or give the program this address.{' '}
              </>
            )}
            {!scheme && 'Give the program this address. '}
            Sign in with your account; use a token of <Link to="/account">your account</Link> as the password.
            While it is open there it is checked out to you; each save is kept, and once you close it you are
            asked here what becomes of it. <Link to="/account/drive">Try what it needs</Link>
          </p>
        </section>
      )}
    </div>
  );
}
