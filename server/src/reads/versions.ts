import type * as contract from '@polychron/contract';
import { labelIn, type Version } from '@polychron/core';
import { accessDocument, findContent, findVersion } from '../access/admission.ts';
import { type Access, type Asker, onlyLooks } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { type Page, partOf } from '../store/cursors.ts';
import { countKinds } from '../store/kindCounts.ts';
import { seenNeighbours, seenPage } from './seenVersions.ts';
import { versionView, versionViews } from './versionView.ts';

/**
 * A page of the versions the caller sees, newest first. A cursor is the id of the last version of the page
 * before.
 */
export async function listVersions(asker: Asker, id: string, page: Page): Promise<contract.VersionList> {
  const { context } = asker;
  const [access, counts] = await Promise.all([accessDocument(asker, id), countKinds(context.db, id)]);
  const before = page.cursor === undefined ? null : (await findVersion(asker, access, page.cursor)).sequence;
  const found = await seenPage(context, access, { before, count: page.limit + 1, counts });
  const { shown, next } = partOf(found.versions, page.limit, (last) => last.id);
  const run = { versions: [...found.versions].reverse(), whole: next === null };
  return { items: await versionViews(context, access, shown, run), next, total: found.total };
}

/** Where a version stands among those the caller sees, for its links. */
export interface Place {
  label: string;
  before: string | null;
  after: string | null;
  latest: string;
  /** Whether the caller holds the document. */
  holds: boolean;
}

/** A version with its place. */
export interface PlacedVersion {
  access: Access;
  version: Version;
  place: Place;
  number: string;
}

/** One version with its place, as the API tells it. */
export async function readVersion(
  asker: Asker,
  id: string,
  name: string,
): Promise<PlacedVersion & { view: contract.Version }> {
  const access = await accessDocument(asker, id);
  const version = await findVersion(asker, access, name);
  const view = await versionView(asker.context, access, version);
  const place = await placeOf(asker.context, access, version);
  return { access, version, view, place, number: access.document.number };
}

async function placeOf(context: Context, access: Access, version: Version): Promise<Place> {
  const { document, actor } = access;
  const { before, after } = await seenNeighbours(context, access, version);
  const { versions } = await seenPage(context, access, { before: null, count: 1 });
  const label = (one: Version): string => labelIn(document, one);
  return {
    label: label(version),
    before: before && label(before),
    after: after && label(after),
    latest: label(versions[0] ?? version),
    holds: document.custody?.holderId === actor.id && !onlyLooks(actor),
  };
}

/** A version whose content is wanted. @throws Refused `content-thinned` where that is no longer kept */
export async function readVersionContent(asker: Asker, id: string, name: string): Promise<PlacedVersion> {
  const access = await accessDocument(asker, id);
  const version = await findContent(asker, access, name);
  const place = await placeOf(asker.context, access, version);
  return { access, version, place, number: access.document.number };
}
