import { CaretLeftIcon, CaretRightIcon } from '@phosphor-icons/react';
import {
  formatLabel,
  isRefusal,
  type Rulebook,
  type RulebookPart,
  sampleLife,
  type SampleStep,
  admitRulebook,
} from '@polychron/core';
import { type ComponentProps, useMemo, useState } from 'react';
import { Strand } from '../../parts/strand/Strand.tsx';

/**
 * A sample document stepped through its life under the rules; the sentence pointed at lights the points it
 * acts on.
 */
export function Sample({ rules, part }: { rules: Rulebook; part: RulebookPart | null }) {
  const steps = useMemo(() => (isRefusal(admitRulebook(rules)) ? [] : sampleLife(rules)), [rules]);
  const [chosen, setChosen] = useState<number | null>(null);
  if (steps.length === 0) return null;
  // A sentence that is pointed at shows the last step it acts in.
  const pointed = part ? steps.findLastIndex((step) => (step.acts[part]?.length ?? 0) > 0) : -1;
  const at =
    pointed >= 0 && chosen === null ? pointed : Math.min(chosen ?? steps.length - 1, steps.length - 1);
  const step = steps[at] as SampleStep;
  const lit = new Set(part ? steps.slice(0, at + 1).flatMap(({ acts }) => acts[part] ?? []) : []);
  const go = (by: number): void => setChosen(Math.min(steps.length - 1, Math.max(0, at + by)));
  return (
    <section className="sample" aria-label="A sample document under these rules">
      <Strand {...strandOf(step)} size="large" lit={lit} now={step.now} />
      <div className="sample-step">
        <button
          type="button"
          className="icon"
          aria-label="Earlier step"
          disabled={at === 0}
          onClick={() => go(-1)}
        >
          <CaretLeftIcon size={16} />
        </button>
        <button
          type="button"
          className="icon"
          aria-label="Later step"
          disabled={at === steps.length - 1}
          onClick={() => go(1)}
        >
          <CaretRightIcon size={16} />
        </button>
        <p aria-live="polite">
          Step {at + 1} of {steps.length}: {step.text}
        </p>
      </div>
    </section>
  );
}

/** A step as the Strand takes documents. */
function strandOf(step: SampleStep): Pick<ComponentProps<typeof Strand>, 'document' | 'versions'> {
  const label = (version: SampleStep['versions'][number]): string => formatLabel(version, step.presentEra);
  const labels = new Map(step.versions.map((version) => [version.id, label(version)]));
  const person = (name: string) => ({ account: name, name });
  const { custody, approval } = step;
  return {
    versions: step.versions.map((version) => ({
      id: version.id,
      label: label(version),
      state: version.state,
      standing: version.standing,
      at: version.at.toISOString(),
      origin: {
        kind: version.origin.kind,
        from: version.origin.from === null ? null : (labels.get(version.origin.from) ?? null),
      },
      thinned: version.thinned && {
        at: version.thinned.at.toISOString(),
        until: version.thinned.until.toISOString(),
        why: version.thinned.why,
      },
      sheltered: version.sheltered,
      inForceFrom: version.inForceFrom?.toISOString() ?? null,
      size: version.content.size,
      words: version.content.words,
    })),
    document: {
      number: 'a sample document',
      versions: step.versions.length,
      toCome: null,
      custody: custody && {
        holder: person(custody.holderName),
        mine: false,
        since: custody.since.toISOString(),
        until: custody.until?.toISOString() ?? null,
        reason: null,
        base: label(custody.base),
        saves: custody.saves,
        lastSavedAt: null,
        overdue: false,
        workingCopy: null,
        door: 'web',
        openUntil: null,
        toFinish: null,
      },
      approval: approval && {
        version: labels.get(approval.versionId) ?? '',
        mode: approval.mode,
        submittedBy: person(approval.submitterName),
        at: approval.submittedAt.toISOString(),
        comment: '',
        inForceFrom: null,
        posts: approval.posts.map((post) => ({
          person: person(post.name),
          decision: post.decision,
          at: post.at?.toISOString() ?? null,
          comment: post.comment,
          inPlace: post.inPlace,
        })),
        waitingFor: [],
        publishes: true,
        ifApproved: null,
        ifApprovedInPlace: null,
        becomes: '',
      },
    },
  };
}
