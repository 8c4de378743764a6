import { routes, type Document, type Version } from '@polychron/contract';
import { type Level, numberWords } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Checkbox } from 'antd';
import { call } from '../../ui/api.ts';
import { Consequences, type Outcome } from '../../ui/Consequences.tsx';
import { Never } from '../approval/Never.tsx';
import { refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';

/** What restoring an earlier version would do, with the number it would become on each button. */
export function RestoreConsequences({
  document,
  version,
  onLeave,
  onDone,
}: {
  document: Document;
  version: Version;
  onLeave: () => void;
  onDone?: (made: Version) => void;
}) {
  const client = useQueryClient();
  const about = aboutDocument(document, `restore ${version.id}`, `Restore ${numberWords(version.label)}`);
  const form = useUnfinished(about, { comment: '', withFields: false });
  const { withFields } = form.value;
  const restore =
    (level: Level) =>
    async (comment: string): Promise<void> => {
      const made = await call(routes.restore, {
        params: { id: document.id },
        body: { from: version.label, level, comment, fields: withFields },
      });
      await refreshDocument(client, document.id);
      onDone?.(made);
    };
  const { toCome, inForce } = document;
  if (!toCome) return null;
  const label = numberWords(version.label);
  const otherFields = fieldsThatDiffer(version.fields, document.latest.fields);
  const outcomes: Outcome[] = [
    ...(toCome.minor
      ? [{ label: `Restore ${label} as ${toCome.minor}`, act: restore('minor'), primary: true }]
      : []),
    {
      label: toCome.submittedAs
        ? `Restore ${label} and submit ${toCome.submittedAs}`
        : `Restore ${label} as ${toCome.major}, in force`,
      act: restore('major'),
      primary: !toCome.minor,
    },
  ];
  return (
    <Consequences
      outcomes={outcomes}
      commentHint="Why? (Earlier content brought back)"
      form={form}
      onLeave={onLeave}
    >
      The content of {label} comes back as a new version{toCome.minor && ` ${toCome.minor}, a draft`};
      everything in between stays.{' '}
      {otherFields.length > 0 && (
        <Checkbox
          checked={withFields}
          onChange={(event) => form.change({ withFields: event.target.checked })}
        >
          with its {otherFields.join(', ')}, not those of {numberWords(document.latest.label)}
        </Checkbox>
      )}{' '}
      {asMajor(toCome, inForce && numberWords(inForce.label))}
      {toCome.submittedAs === null && <Never toCome={toCome} />}
    </Consequences>
  );
}

const fieldNames: Partial<Record<string, string>> = {
  title: 'title',
  type: 'type',
  subject: 'subject',
  reviewBy: 'review date',
};

/** Fields that the two versions have otherwise, by the names they have on screen. */
function fieldsThatDiffer(earlier: Version['fields'], latest: Version['fields']): string[] {
  return Object.keys({ ...fieldNames, ...earlier, ...latest })
    .filter((name) => JSON.stringify(earlier[name]) !== JSON.stringify(latest[name]))
    .map((name) => fieldNames[name] ?? name);
}

function asMajor(toCome: NonNullable<Document['toCome']>, inForce: string | null): string {
  if (toCome.submittedAs) {
    const seen = inForce ? `readers see ${inForce}` : 'readers see nothing';
    return `Submitted, ${toCome.submittedAs} waits for its approvers; ${seen} until they approve.`;
  }
  return inForce
    ? `As ${toCome.major} it takes the place of ${inForce} for readers at once.`
    : `As ${toCome.major} it is what readers see at once.`;
}
