import { numberWords } from '@polychron/core';
import { useQuery } from '@tanstack/react-query';
import { Button } from 'antd';
import { Link, useParams } from 'react-router-dom';
import { IssuedCopy } from '../../parts/issuing/IssuedCopy.tsx';
import { ConfirmReading } from '../../parts/distribution/ConfirmReading.tsx';
import { documentQuery } from '../../parts/queries.ts';
import { ReadingOf } from '../../parts/reading/ReadingOf.tsx';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { date, fullTime } from '../../ui/when.ts';
import './inForce.css';

/** What is in force of one document, to be read and printed: nothing beside the text but what it is. */
export function ReadPage() {
  const { code = '', id = '' } = useParams();
  const { data: document, error } = useQuery(documentQuery(id));
  if (error) return <Nowhere error={error} />;
  if (!document) return <Waiting lines={9} screen />;
  const { inForce, number, library } = document;
  const address = `/${code}/documents/${id}`;
  if (!inForce) {
    return (
      <main className="read-page">
        <p className="empty">
          Nothing of {number} is in force. <Link to={address}>Open the document</Link>
        </p>
      </main>
    );
  }
  return (
    <main className="read-page">
      <header>
        <p className="read-what">
          <span className="number doc-number">{number}</span> · {library.name}
        </p>
        <h1 dir="auto">{inForce.fields.title}</h1>
        <p className="read-what">
          <span className="number">{numberWords(inForce.label)}</span>, in force since{' '}
          <span title={fullTime(inForce.inForceFrom ?? inForce.at)}>
            {date(inForce.inForceFrom ?? inForce.at)}
          </span>
        </p>
        <p className="acts no-print">
          <Button onClick={() => window.print()}>Print</Button>
          <IssuedCopy documentId={id} version={inForce}>
            Download
          </IssuedCopy>
          <Link to={address}>Open the document</Link>
        </p>
        <ConfirmReading document={document} />
      </header>
      <ReadingOf documentId={id} version={inForce} />
    </main>
  );
}
