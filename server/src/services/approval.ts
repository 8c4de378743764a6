import type * as contract from '@polychron/contract';
import { type ApprovalDecision, callBack as decideCallBack, decide as decideApproval, isRefusal, submit as decideSubmit, type Version } from '@polychron/core';
import type { Context } from '../context.ts';
import { type Caller, findVersion } from './access.ts';
import { act, madeVersion } from './custody.ts';
import { tellOfRejection } from './notices.ts';

/** Asks the approvers about a version, the latest unless another is named. */
export async function submit(
  context: Context, caller: Caller, documentId: string, command: { version?: string | undefined; comment: string; inForceFrom: Date | null }, ifMatch?: string,
): Promise<contract.Version> {
  let asked: Version | null = null;
  await act(context, caller, documentId, { ifMatch }, async (access, now, tx) => {
    asked = command.version === undefined ? access.document.latest : await findVersion(context, access, command.version, tx);
    return decideSubmit(access.document, access.actor, { version: asked, comment: command.comment, inForceFrom: command.inForceFrom }, now);
  });
  return madeVersion(context, caller, documentId, (asked as Version | null)?.id ?? null);
}

/** Takes the version out of approval. */
export async function callBack(context: Context, caller: Caller, documentId: string, comment: string): Promise<contract.Version> {
  let called: string | null = null;
  await act(context, caller, documentId, {}, ({ document, actor }, now) => {
    called = document.latest.id;
    return decideCallBack(document, actor, { comment }, now);
  });
  return madeVersion(context, caller, documentId, called);
}

/** An approver's decision. Answers the version it made where it published one, else the version decided about. */
export async function decide(
  context: Context, caller: Caller, documentId: string, command: { version: string; decision: ApprovalDecision; comment: string },
): Promise<contract.Version> {
  let about: Version | null = null;
  let told: string[] = [];
  const made = await act(context, caller, documentId, {}, async (access, now, tx) => {
    about = await findVersion(context, access, command.version, tx);
    const outcome = decideApproval(access.document, access.actor, { version: about, decision: command.decision, comment: command.comment }, now);
    if (command.decision === 'reject' && !isRefusal(outcome)) told = await tellOfRejection(context, access.document, { name: access.actor.name, comment: command.comment }, now, tx);
    return outcome;
  });
  if (told.length > 0) context.happenings.tell({ kind: 'notices', personIds: told });
  return madeVersion(context, caller, documentId, made ?? (about as Version | null)?.id ?? null);
}
