import { isRefusal, type Refusal } from '@polychron/core';

/** An expected "no" on its way out of a service; the HTTP door turns it into problem details. */
export class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.reason);
    this.name = 'Refused';
  }
}

/** Passes an accepted answer through and throws a refusal. */
export function accepted<T extends object>(outcome: T): Exclude<T, Refusal> {
  if (isRefusal(outcome)) throw new Refused(outcome);
  return outcome as Exclude<T, Refusal>;
}
