import {
  carriesControlFields,
  type ControlValues,
  controlValues,
  inForceFrom,
  labelIn,
  numberWords,
  refuse,
  shownValues,
  type Version,
} from '@polychron/core';
import type { Access } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { endedRuns } from '../store/approvals.ts';
import { namesOf, nobody } from '../store/people.ts';
import { findVersions } from '../store/versions.ts';
import { askedAbout } from './decidedRun.ts';
import { peopleIn } from './fieldsView.ts';

/** Larger files would be unfolded and folded for it, in memory. */
const largestIssued = 64 << 20;

/** An issued copy to be made: what is written in, and what the file is called then. */
export interface Issue {
  control: ControlValues;
  fileName: string;
}

/**
 * What is written into an issued copy of a version the caller sees, as it stands now, or at the moment that
 * is looked at.
 * @throws Refused `not-to-be-issued` for a file too large to be written into
 */
export async function issueOf(context: Context, access: Access, version: Version): Promise<Issue> {
  const { document, past } = access;
  const { number, inForce, rules } = document;
  const { content, fields } = version;
  if (carriesControlFields(content.fileName) && content.size > largestIssued) {
    const reason = 'Files of more than 64 MB are given out as they were checked in. Leave out issued.';
    throw new Refused(refuse('conflict', 'not-to-be-issued', reason));
  }
  const own = shownValues(rules, fields.own ?? {}, document.administrative);
  const approvers = await approversOf(context, access, version);
  const people = await namesOf(context, [document.ownerId, ...approvers, ...peopleIn(own)]);
  const nameOf = (id: string): string => (people.get(id) ?? nobody).name;
  const label = numberWords(labelIn(document, version));
  const isInForce = inForce?.id === version.id;
  const facts = {
    number,
    version: label,
    state: version.state,
    standing: version.standing,
    fields,
    own,
    ownerName: nameOf(document.ownerId),
    approverNames: approvers.map(nameOf),
    inForceFrom: inForceFrom(version),
    reviewBy: (isInForce ? document.reviewBy : fields.reviewBy) ?? null,
    inForce: inForce && (!past || sees(access, inForce)) ? numberWords(labelIn(document, inForce)) : null,
  };
  const control = controlValues(facts, rules.controlNames, nameOf);
  return { control, fileName: issuedName(number, label, content.fileName) };
}

/** Who approved the version, or the draft it was published from; of a draft, who would be asked. */
async function approversOf(
  context: Context,
  { document, past }: Access,
  version: Version,
): Promise<string[]> {
  const asked = askedAbout(version, await findVersions(context, [version.origin.from]));
  const runs = await endedRuns(context, [version.id, asked.id], { by: past?.at });
  const run = runs.get(version.id) ?? runs.get(asked.id);
  if (run?.run.outcome === 'approved') {
    return run.posts.filter(({ decision }) => decision === 'approve').map(({ personId }) => personId);
  }
  const isToCome = version.state === 'draft' || version.state === 'inApproval';
  return isToCome && document.rules.approval.on ? document.approvers.map(({ id }) => id) : [];
}

/** Number and version stand before the name the file was checked in with. */
const issuedName = (number: string, label: string, fileName: string): string =>
  [...(fileName.includes(number) ? [] : [number.replace(/[/\\]/g, '-')]), label, fileName].join(' ');
