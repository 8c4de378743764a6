import { type DeskFile, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Progress } from 'antd';
import { useRef, useState } from 'react';
import { sentenceOf, upload, type Upload } from '../../shared/api.ts';
import { ownLibrariesQuery } from '../../shared/queries.ts';

interface Sent { name: string; problem: string | null }

/** Files put on the Desk to be brought into a library later; each one's outcome is told. */
export function Arrivals() {
  const client = useQueryClient();
  const { data: libraries } = useQuery(ownLibrariesQuery);
  const works = libraries?.items.some(({ roles }) => roles.includes('author') || roles.includes('controller')) ?? false;
  const [over, setOver] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [name, setName] = useState('');
  const [refused, setRefused] = useState<Sent[]>([]);
  const sending = useRef<Upload<DeskFile> | null>(null);
  const left = useRef(false);
  const take = async (files: File[]): Promise<void> => {
    if (files.length === 0 || share !== null) return;
    setRefused([]);
    left.current = false;
    for (const file of files) {
      if (left.current) break;
      setName(file.name);
      setShare(0);
      sending.current = upload(routes.addDeskFile, {}, { file }, setShare);
      try { await sending.current.done; } catch (error) { const problem = sentenceOf(error); setRefused((so) => [...so, { name: file.name, problem }]); }
    }
    sending.current = null;
    setShare(null);
    await client.invalidateQueries({ queryKey: ['desk'] });
  };
  if (!works) return null;
  return (
    <div className="arrivals">
      <label className={`put-back ${over ? 'put-back-over' : ''}`} onDragOver={(event) => { event.preventDefault(); setOver(true); }} onDragLeave={() => setOver(false)}
        onDrop={(event) => { event.preventDefault(); setOver(false); void take([...event.dataTransfer.files]); }}>
        <input type="file" multiple className="unseen" disabled={share !== null} onChange={(event) => { void take([...event.target.files ?? []]); event.target.value = ''; }} />
        <span>Put files on your Desk <span className="muted">drop or choose them; nobody else sees them</span></span>
      </label>
      {share !== null && (
        <div className="acts"><span>{name}</span><Progress percent={Math.round(share * 100)} size="small" aria-label="Upload" />
          <button type="button" className="quiet" onClick={() => { left.current = true; sending.current?.cancel(); }}>Cancel</button></div>
      )}
      {refused.map((one) => <div key={one.name} className="refusal" role="alert">{one.name}: {one.problem}</div>)}
    </div>
  );
}
