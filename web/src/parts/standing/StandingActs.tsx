import { numberWords } from '@polychron/core';
import { type Document, type Outlook, routes, type Version } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call, PageError } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { MomentField } from '../../ui/dates.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { date, fullTime } from '../../ui/when.ts';
import { outlookQuery, refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import './standing.css';

type Act = 'withdraw' | 'reinstate' | 'reschedule' | 'takeBack';
const acts: readonly Act[] = ['withdraw', 'reinstate', 'reschedule', 'takeBack'];
const words: Record<Act, (label: string) => string> = {
  withdraw: (label) => `Withdraw ${label}`,
  reinstate: (label) => `Put ${label} back in force`,
  reschedule: (label) => `Change when ${label} comes into force`,
  takeBack: (label) => `Take ${label} back`,
};

interface Props {
  document: Document;
  version: Version;
}

/** What can be done about how a published version stands: withdrawn, in force again, at another moment. */
export function StandingActs({ document, version }: Props) {
  const [asking, setAsking] = useState<Act | null>(null);
  const leave = (): void => setAsking(null);
  const label = numberWords(version.label);
  const allowed = acts.filter((act) => version.acts[act].allowed);
  const { withdrawn, standing, inForceFrom } = version;
  if (allowed.length === 0 && !withdrawn && standing !== 'scheduled') return null;
  return (
    <div className="standing-acts">
      {withdrawn && (
        <p className="muted">
          <span title={fullTime(withdrawn.at)}>{date(withdrawn.at)}</span>: {withdrawn.why}
        </p>
      )}
      {standing === 'scheduled' && inForceFrom && (
        <p className="muted">
          {label} comes into force {fullTime(inForceFrom)}.
        </p>
      )}
      {asking === 'reschedule' && <Moment document={document} version={version} onLeave={leave} />}
      {asking !== null && asking !== 'reschedule' && (
        <WithReason document={document} version={version} act={asking} onLeave={leave} />
      )}
      {asking === null && (
        <div className="acts">
          {allowed.map((act) => (
            <button key={act} type="button" className="quiet" onClick={() => setAsking(act)}>
              {words[act](label)}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

/** An act that takes a reason, with what readers have then said before. */
function WithReason({
  document,
  version,
  act,
  onLeave,
}: Props & { act: Exclude<Act, 'reschedule'>; onLeave: () => void }) {
  const client = useQueryClient();
  const { data: outlook, error } = useQuery(outlookQuery(document.id, version.label, act));
  const label = numberWords(version.label);
  const about = aboutDocument(document, `${act} ${version.id}`, words[act](label));
  const form = useUnfinished(about, { comment: '' });
  const go = async (reason: string): Promise<void> => {
    if (reason.trim() === '' && act !== 'takeBack') {
      throw new PageError('Say in a sentence why: it stays with the version.');
    }
    const { id } = document;
    const given = { version: version.label, reason };
    if (act === 'takeBack') await call(routes.takeBack, { params: { id }, query: given });
    else await call(routes[act], { params: { id }, body: given });
    await refreshDocument(client, id);
  };
  if (error) return <Refusal error={error} onLeave={onLeave} />;
  return (
    <Consequences
      outcomes={outlook ? [{ label: words[act](label), act: go, primary: act === 'reinstate' }] : []}
      commentHint={act === 'takeBack' ? 'Why? (optional)' : 'Why? It stays with the version.'}
      form={form}
      onLeave={onLeave}
    >
      {outlook ? sentenceOf(document, version, outlook) : 'Working out what readers will have …'}
    </Consequences>
  );
}

const members = (count: number): string => `${count} ${count === 1 ? 'member' : 'members'}`;
const listed = (labels: readonly string[]): string => labels.map(numberWords).join(', ');

/** What readers have after an act, from what the server computed. */
function sentenceOf(
  { inForce: present }: Document,
  version: Version,
  { inForce, readers, withdrawn, thinned }: Outlook,
): string {
  const others = withdrawn.filter((label) => label !== version.label);
  const also =
    others.length > 0 ? ` ${listed(others)} ${others.length === 1 ? 'is' : 'are'} withdrawn, not lost.` : '';
  if (inForce === null) {
    const why = thinned
      ? ` ${numberWords(thinned)} before it was thinned: recover it to put it back in force.`
      : '';
    return `Nothing will be in force; readers see nothing of the document.${why}${also}`;
  }
  if (inForce === present?.label) return `${members(readers)} go on seeing ${numberWords(inForce)}.${also}`;
  const instead = present ? ` instead of ${numberWords(present.label)}` : '';
  return `${members(readers)} will see ${numberWords(inForce)}${instead} from now.${also}`;
}

/** Another moment for a scheduled version, or none: at once. */
function Moment({ document, version, onLeave }: Props & { onLeave: () => void }) {
  const client = useQueryClient();
  const label = numberWords(version.label);
  const form = useUnfinished(aboutDocument(document, `reschedule ${version.id}`, words.reschedule(label)), {
    from: version.inForceFrom,
  });
  const { from } = form.value;
  const go = async (): Promise<void> => {
    const body = { version: version.label, inForceFrom: from };
    await call(routes.reschedule, { params: { id: document.id }, body });
    await refreshDocument(client, document.id);
  };
  const until = document.inForce
    ? `readers keep ${numberWords(document.inForce.label)}`
    : 'readers see nothing';
  return (
    <Consequences
      outcomes={[
        { label: from ? 'Let it wait until then' : `Bring ${label} into force`, act: go, primary: true },
      ]}
      form={form}
      onLeave={onLeave}
    >
      {from
        ? `Readers get ${label} from ${fullTime(from)}; until then ${until}.`
        : `Readers get ${label} from now.`}
      <label className="moment">
        In force from{' '}
        <MomentField
          name="In force from"
          value={from}
          empty="now"
          onChange={(chosen) => form.change({ from: chosen })}
        />
      </label>
    </Consequences>
  );
}
