import { numberWords } from '@polychron/core';
import { routes, type Document, type Version } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import { bytes, date } from '../../ui/when.ts';
import './keeping.css';

type Act = 'thin' | 'recover' | 'shelter' | 'unshelter';
const act = {
  thin: routes.thinVersion,
  recover: routes.recoverVersion,
  shelter: routes.shelterVersion,
  unshelter: routes.unshelterVersion,
};
const verbs: Record<Act, string> = {
  thin: 'Remove content of',
  recover: 'Recover',
  shelter: 'Shelter',
  unshelter: 'End the shelter',
};

const actWords = (act: Act, label: string): string =>
  `${verbs[act]} ${act === 'unshelter' ? 'of ' : ''}${label}`;

/** What can be done about the keeping of one version: thinned by hand, recovered, sheltered. */
export function KeepingActs({ document, version }: { document: Document; version: Version }) {
  const client = useQueryClient();
  const [asking, setAsking] = useState<Act | null>(null);
  const words = asking ? actWords(asking, numberWords(version.label)) : '';
  const form = useUnfinished(aboutDocument(document, `${asking ?? ''} ${version.id}`, words), {
    comment: '',
  });
  const allowed = (Object.keys(act) as Act[]).filter((name) => version.acts[name].allowed);
  if (allowed.length === 0 && !version.thinned && !version.sheltered) return null;
  const go = async (reason: string): Promise<void> => {
    if (!asking) return;
    await call(act[asking], { params: { id: document.id, v: version.label }, body: { reason } });
    await refreshDocument(client, document.id);
  };
  const label = numberWords(version.label);
  const sentences: Record<Act, string> = {
    thin: `The content of ${label}, ${bytes(version.size)}, goes to the recovery shelf; nobody can read or restore it until it is recovered. Its row stays.`,
    recover: `The content of ${label} comes back. It is sheltered, since the rules would thin it again.`,
    shelter: `No limit and no hand thins ${label} while it is sheltered.`,
    unshelter: `From now on ${label} follows the limits of the Rulebook; the next thinning may take it.`,
  };
  return (
    <div className="keeping-acts">
      {version.thinned && (
        <p className="muted">
          Thinned {date(version.thinned.at)}. {version.thinned.why}{' '}
          {new Date(version.thinned.until) > new Date()
            ? `It can be recovered until ${date(version.thinned.until)}.`
            : 'The content is gone for good.'}
        </p>
      )}
      {version.sheltered && <p className="muted">Sheltered: never thinned.</p>}
      {asking ? (
        <Consequences
          key={asking}
          outcomes={[
            {
              label: words,
              act: go,
              primary: asking !== 'thin',
            },
          ]}
          commentHint="Why?"
          form={form}
          onLeave={() => setAsking(null)}
        >
          {sentences[asking]}
        </Consequences>
      ) : (
        <div className="acts">
          {allowed.map((name) => (
            <button key={name} type="button" className="quiet" onClick={() => setAsking(name)}>
              {actWords(name, label)}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
