import { seesVersion, may } from '@polychron/core';
import type { Context } from '../context.ts';
import { type Overdue, overdueCheckouts } from '../store/custody.ts';
import { loadDocument } from '../store/documents.ts';
import { rolesIn } from '../store/members.ts';
import { insertNotices, wasTold } from '../store/notices.ts';

/**
 * Tells holder, owner and controllers of every check-out whose end is past, once. Returns how many check-outs
 * were told of.
 */
export async function tellOfOverdue(context: Context): Promise<number> {
  let told = 0;
  for (const overdue of await overdueCheckouts(context, context.clock())) {
    if (await tellOf(context, overdue)) told += 1;
  }
  return told;
}

async function tellOf(context: Context, overdue: Overdue): Promise<boolean> {
  const { documentId, libraryId, holderId, ownerId, holder, until } = overdue;
  const about = `overdue:${documentId}:${until.getTime()}`;
  if (await wasTold(context, about)) return false;
  const document = await loadDocument(context, documentId);
  const base = document?.custody?.base;
  if (!document || !base) return false;
  const members = await rolesIn(context, libraryId, null);
  const hearing = [...members].flatMap(([id, roles]) => (may(roles, 'hearOfOverdue') ? [id] : []));
  // The end of a check-out is told to those who see its base.
  const personIds = [holderId, ownerId, ...hearing].filter((id) => {
    const viewer = { id, name: '', roles: members.get(id) ?? new Set() };
    return seesVersion(document, viewer, base);
  });
  const facts = { holder, holderId, until: until.toISOString() };
  const notice = { kind: 'overdue' as const, about, documentId, at: context.clock(), facts };
  await insertNotices(context, personIds, notice);
  context.events.publish({ kind: 'notices', personIds });
  return true;
}
