import {
  carriesControlFields,
  type ContentFacts,
  type ControlValues,
  controlValues,
  inForceFrom,
  labelIn,
  numberWords,
  shownValues,
  type Version,
} from '@polychron/core';
import type * as contract from '@polychron/contract';
import type { Access, Asker } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import { readContent } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { endedRuns } from '../store/approvals.ts';
import { namesOf, nobody } from '../store/people.ts';
import { findVersions } from '../store/versions.ts';
import { askedAbout } from './decidedRun.ts';
import { peopleIn } from './fieldsView.ts';
import { readVersionContent } from './versions.ts';

/** Larger files would be unfolded and folded for it, in memory. */
const largestIssued = 64 << 20;

/** An issued copy to be made of a content: what is written in, and what the file is called then. */
export interface Issue {
  content: ContentFacts;
  control: ControlValues;
  fileName: string;
}

/** An issued copy; where `why` says why none can be made, the file is given out as it was checked in. */
export type Issued = { bytes: Uint8Array; why: null } | { bytes: null; why: string };

/** Makes an issued copy, or says why there is none. */
export async function makeIssued(context: Context, { content, control }: Issue): Promise<Issued> {
  const { fileName, size, sha256 } = content;
  if (!carriesControlFields(fileName))
    return {
      bytes: null,
      why: 'Nothing can be written into a file of this type; here is the file as it was checked in.',
    };
  if (size > largestIssued)
    return {
      bytes: null,
      why: 'This file is too large for an issued copy; here is the file as it was checked in.',
    };
  try {
    const fetch = (): Promise<Buffer> => readContent(context, sha256);
    return { bytes: await context.readers.issue(content, fetch, control), why: null };
  } catch (error) {
    if (!(error instanceof Refused) || error.refusal.code !== 'not-to-be-issued') throw error;
    return { bytes: null, why: error.refusal.reason };
  }
}

/** Why readers would get a version as it was checked in, and no issued copy; null where they get one. */
export async function readIssuable(
  asker: Asker,
  documentId: string,
  version: string,
): Promise<contract.Issuable> {
  const { access, version: found } = await readVersionContent(asker, documentId, version);
  const { why } = await makeIssued(asker.context, await issueOf(asker.context, access, found));
  return { why };
}

/**
 * What is written into an issued copy of a version the caller sees, as it stands now, or at the moment that
 * is looked at.
 */
export async function issueOf(context: Context, access: Access, version: Version): Promise<Issue> {
  const { document, past } = access;
  const { number, inForce, rules } = document;
  const { content, fields } = version;
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
    voided: document.voided !== null,
    inForce: inForce && (!past || sees(access, inForce)) ? numberWords(labelIn(document, inForce)) : null,
  };
  const control = controlValues(facts, rules.controlNames, nameOf);
  return { content, control, fileName: issuedName(number, label, content.fileName) };
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
