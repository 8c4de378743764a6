import { type Document, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { AutoComplete } from 'antd';
import { useState } from 'react';
import { call, PageError } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { knownTypes } from '../fields/ownFields.ts';
import { refreshDocument } from '../queries.ts';
import { useLibrary } from '../useLibrary.ts';

/** Of what type of documents this one is the template, and saying so. */
export function TemplateActs({ document }: { document: Document }) {
  const client = useQueryClient();
  const library = useLibrary();
  const { id, number, templateFor, fields, inForce, acts } = document;
  const [marking, setMarking] = useState(false);
  const [type, setType] = useState(fields.type ?? '');
  const mark = async (named: string | null): Promise<void> => {
    if (named?.trim() === '') throw new PageError('Name the type of documents that begin with it.');
    await call(routes.markTemplate, { params: { id }, body: { type: named } });
    await refreshDocument(client, id);
    await client.invalidateQueries({ queryKey: ['templates'] });
    setMarking(false);
  };
  if (templateFor === null && !acts.markTemplate.allowed) return null;
  if (marking) {
    const ends = templateFor !== null;
    return (
      <Consequences
        onLeave={() => setMarking(false)}
        outcomes={[
          ends
            ? { label: 'It is no template any more', act: () => mark(null) }
            : { label: `Template of “${type.trim() || '…'}”`, act: () => mark(type) },
        ]}
      >
        {ends ? (
          <>New documents no longer begin with {number}; those that did stay as they are.</>
        ) : (
          <>
            New documents of the type{' '}
            <AutoComplete
              aria-label="Type of documents"
              value={type}
              maxLength={60}
              placeholder="Operating procedure"
              options={library ? knownTypes(library.rules).map((value) => ({ value })) : []}
              onChange={setType}
              style={{ minWidth: 190 }}
            />{' '}
            can begin with what is in force of {number}
            {inForce ? '' : ', once something is'}.
          </>
        )}
      </Consequences>
    );
  }
  return (
    <p className="template-of">
      {templateFor !== null && <>Template of “{templateFor}”. </>}
      {acts.markTemplate.allowed && (
        <button type="button" className="quiet" onClick={() => setMarking(true)}>
          {templateFor === null ? 'Use it as a template' : 'End that'}
        </button>
      )}
    </p>
  );
}
