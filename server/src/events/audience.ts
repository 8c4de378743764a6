import { isHeardBy } from '@polychron/core';
import { actorIn } from '../access/actor.ts';
import { accessDocument } from '../access/admission.ts';
import type { Caller } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import type { Event } from './bus.ts';

/** What was asked about an event already, by what was asked. */
const asked = new WeakMap<Event, Map<string, Promise<boolean>>>();

/** Asks once about an event, however many streams want to know. */
export function once(event: Event, about: string, ask: () => Promise<boolean>): Promise<boolean> {
  const known = asked.get(event) ?? new Map<string, Promise<boolean>>();
  asked.set(event, known);
  const answer = known.get(about) ?? ask();
  known.set(about, answer);
  return answer;
}

/** Whether somebody is of an event's audience: only of what they see, or saw until now. */
export async function isAddressedTo(context: Context, caller: Caller, event: Event): Promise<boolean> {
  if (event.kind === 'notices') return event.personIds.includes(caller.id);
  if (event.kind === 'signIns') return event.personId === caller.id;
  const actor = await actorIn(context, caller, event.libraryId);
  if (actor.roles.size === 0) return false;
  if (event.kind === 'library' || isHeardBy(event.audience, actor)) return true;
  return event.audience.everyone && seesAnything(context, caller, event.documentId);
}

async function seesAnything(context: Context, caller: Caller, documentId: string): Promise<boolean> {
  try {
    await accessDocument({ context, caller }, documentId);
    return true;
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
}
