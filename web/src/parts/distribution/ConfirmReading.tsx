import { type Document, routes } from '@polychron/contract';
import { numberWords } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { useOnlyLooks } from '../../ui/looking.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { date, fullTime } from '../../ui/when.ts';
import { refreshDocument } from '../queries.ts';
import './distribution.css';

/** That one is to read what is in force, since when; and saying that one has. */
export function ConfirmReading({ document }: { document: Document }) {
  const client = useQueryClient();
  const onlyLooks = useOnlyLooks();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const { id, inForce, reading } = document;
  if (!reading || !inForce) return null;
  const label = numberWords(inForce.label);
  if (reading.readAt !== null) {
    return (
      <p className="confirm-reading muted no-print">
        You confirmed having read {label} on{' '}
        <span title={fullTime(reading.readAt)}>{date(reading.readAt)}</span>.
      </p>
    );
  }
  const confirm = async (): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      await call(routes.confirmRead, { params: { id, v: inForce.label }, body: {} });
      await refreshDocument(client, id);
    } catch (refusal) {
      setError(refusal);
    }
    setBusy(false);
  };
  return (
    <div className="confirm-reading no-print">
      <p>
        You are asked to read {label}, since{' '}
        <span title={fullTime(reading.since)}>{date(reading.since)}</span>.
      </p>
      {!onlyLooks && (
        <Button type="primary" loading={busy} onClick={() => void confirm()}>
          I have read {label}
        </Button>
      )}
      <Refusal error={error} />
    </div>
  );
}
