import { numberWords } from '@polychron/core';
import { type Document, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { MomentField } from '../../ui/dates.tsx';
import { fullTime } from '../../ui/when.ts';
import { issuableQuery, refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import { Never } from './Never.tsx';

interface WithMoment {
  comment: string;
  /** When it comes into force; null: as soon as it is published. */
  from: string | null;
}
const nothingTyped: WithMoment = { comment: '', from: null };

/** What publishing the latest version comes to, as its button says it. */
export function publishLabel({ latest, toCome }: Document): string {
  const as = toCome?.publishedAs ?? latest.label;
  return as === latest.label ? `Publish ${as}` : `Publish ${latest.label} as ${as}`;
}

/** Publishing the latest version, with what its readers will see said before. */
export function PublishConsequences({
  document,
  onLeave,
  onDone,
}: {
  document: Document;
  onLeave: () => void;
  onDone: () => void;
}) {
  const client = useQueryClient();
  const form = useUnfinished<WithMoment>(aboutDocument(document, 'publish', 'Publish'), nothingTyped);
  const { from } = form.value;
  const { latest, inForce, seenBy } = document;
  const as = document.toCome?.publishedAs ?? latest.label;
  const publish = async (comment: string): Promise<void> => {
    await call(routes.publish, {
      params: { id: document.id },
      body: { version: latest.label, comment, ...momentOf(from) },
    });
    await refreshDocument(client, document.id);
    onDone();
  };
  const count = seenBy?.latestInForce ?? 0;
  const members = `${count} ${count === 1 ? 'member' : 'members'}`;
  const now = inForce ? numberWords(inForce.label) : '';
  const when = from ? `from ${fullTime(from)}` : 'from now';
  return (
    <Consequences
      outcomes={[
        {
          label: from ? `${publishLabel(document)}, in force later` : publishLabel(document),
          act: publish,
          primary: true,
        },
      ]}
      commentHint={`What is new? (${latest.comment})`}
      form={form}
      onLeave={onLeave}
    >
      {inForce
        ? `Readers will see ${as} instead of ${now} ${when}; ${now} is superseded and stays.`
        : `${members} will see ${as} ${when}; nothing was in force before.`}{' '}
      The drafts stay as long as the Rulebook says. <Never toCome={document.toCome} from={from} />{' '}
      <AsItIs document={document} />
      <Moment value={from} onChange={(chosen) => form.change({ from: chosen })} />
    </Consequences>
  );
}

/** Submitting the latest version, with who is asked said before. */
export function SubmitConsequences({ document, onLeave }: { document: Document; onLeave: () => void }) {
  const client = useQueryClient();
  const form = useUnfinished<WithMoment>(aboutDocument(document, 'submit', 'Submit'), nothingTyped);
  const { from } = form.value;
  const { latest, inForce, approvers } = document;
  const submit = async (comment: string): Promise<void> => {
    await call(routes.submit, {
      params: { id: document.id },
      body: { version: latest.label, comment, ...momentOf(from) },
    });
    await refreshDocument(client, document.id);
  };
  return (
    <Consequences
      outcomes={[{ label: `Submit ${latest.label}`, act: submit, primary: true }]}
      commentHint="What should the approvers look at? (optional)"
      form={form}
      onLeave={onLeave}
    >
      {approvers.map(({ name }) => name).join(', ')} {approvers.length === 1 ? 'is' : 'are'} asked about{' '}
      {latest.label}. Until {approvers.length === 1 ? 'that is decided' : 'they approve'} nobody can check it
      out, and {inForce ? `readers see ${numberWords(inForce.label)}` : 'readers see nothing'}.{' '}
      <AsItIs document={document} />
      <Moment value={from} onChange={(chosen) => form.change({ from: chosen })} />
    </Consequences>
  );
}

/** Says so where readers will get the file as it was checked in, since nothing can be written into it. */
function AsItIs({ document: { id, latest } }: { document: Document }) {
  const { data } = useQuery(issuableQuery(id, latest.label));
  return data?.why ? <strong>Readers get it without number and version in it. {data.why}</strong> : null;
}

/** The moment of coming into force, where it should not be as soon as it is published. */
function Moment({ value, onChange }: { value: string | null; onChange: (value: string | null) => void }) {
  return (
    <label className="moment">
      In force from{' '}
      <MomentField
        name="In force from"
        value={value}
        empty="as soon as it is published"
        onChange={onChange}
      />
    </label>
  );
}
const momentOf = (moment: string | null): { inForceFrom?: string } => (moment ? { inForceFrom: moment } : {});
