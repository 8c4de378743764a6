import { Sending } from '../../parts/Sending.tsx';
import { type DeskFile, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { sentenceOf, upload, type Upload } from '../../ui/api.ts';
import { DropFile } from '../../ui/DropFile.tsx';
import { ownLibrariesQuery } from '../../parts/queries.ts';

interface Sent {
  name: string;
  problem: string | null;
}

/** Files put on the Desk to be brought into a library later; each one's outcome is told. */
export function Arrivals() {
  const client = useQueryClient();
  const { data: libraries } = useQuery(ownLibrariesQuery);
  const works = libraries?.items.some(({ acts }) => acts.checkIn.allowed) ?? false;
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
      try {
        await sending.current.done;
      } catch (error) {
        const problem = sentenceOf(error);
        setRefused((so) => [...so, { name: file.name, problem }]);
      }
    }
    sending.current = null;
    setShare(null);
    await client.invalidateQueries({ queryKey: ['desk'] });
  };
  if (!works) return null;
  return (
    <div className="arrivals">
      <DropFile multiple disabled={share !== null} onFiles={(files) => void take(files)}>
        Put files on your Desk <span className="muted">drop or choose them; nobody else sees them</span>
      </DropFile>
      <Sending
        share={share}
        onCancel={() => {
          left.current = true;
          sending.current?.cancel();
        }}
      >
        <span>{name}</span>
      </Sending>
      {refused.map((one) => (
        <div key={one.name} className="refusal" role="alert">
          {one.name}: {one.problem}
        </div>
      ))}
    </div>
  );
}
