import { isUnnumbered, numberWords } from '@polychron/core';
import type { Version } from '@polychron/contract';
import { Tooltip } from 'antd';

type Shown = Pick<Version, 'label' | 'state' | 'standing'>;

/** What a version is, in words: "in force", "draft"; a draft that was published says that it was approved. */
export function stateWords({
  state,
  standing,
  approval,
}: Omit<Shown, 'label'> & { approval?: Version['approval'] }): string {
  if (state === 'draft' && approval?.outcome === 'approved') return 'draft, approved';
  if (state === 'published')
    return { inForce: 'in force', superseded: 'superseded', scheduled: 'scheduled' }[
      standing ?? 'superseded'
    ];
  return {
    draft: 'draft',
    inApproval: 'in approval',
    approved: 'approved',
    rejected: 'rejected',
    withdrawn: 'withdrawn',
  }[state];
}

/**
 * A version's label as people read it: one without a number is the current one, or an earlier one.
 */
export function labelWords({ label, standing }: Pick<Shown, 'label' | 'standing'>): string {
  if (!isUnnumbered(label)) return numberWords(label);
  return standing === 'inForce' ? 'current' : 'earlier';
}

/** A version's number in its own face; on focus or hover it says why one sees it. */
export function VersionNumber({ version, why }: { version: Shown; why?: string | undefined }) {
  const published = version.state === 'published' || version.state === 'withdrawn';
  const number = (
    <span
      className={`number ${published ? 'number-published' : 'number-draft'} ${version.standing === 'inForce' ? 'number-force' : ''}`}
      {...(why ? { tabIndex: 0 } : {})}
    >
      {labelWords(version)}
    </span>
  );
  return why ? (
    <Tooltip title={why} trigger={['hover', 'focus']}>
      {number}
    </Tooltip>
  ) : (
    number
  );
}
