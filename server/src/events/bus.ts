import type { Audience } from '@polychron/core';
import { EventEmitter } from 'node:events';

/** Something that happened, for open pages to read again. */
export type Event =
  | { kind: 'document'; documentId: string; libraryId: string; audience: Audience }
  /** Rules or name of a library, or its long work: every member hears of it. */
  | { kind: 'library'; libraryId: string }
  | { kind: 'notices'; personIds: readonly string[] }
  /** A sign-in of somebody's has ended: each of their connections looks whether it was the one it came by. */
  | { kind: 'signIns'; personId: string };

/** How many streams one person, and one sign-in of theirs, may have open at once. */
const mostOfPerson = 48;
const mostOfSignIn = 12;

/** Carries events from the acts to whoever subscribed. */
export class EventBus {
  private readonly emitter = new EventEmitter<{ event: [Event]; end: [] }>().setMaxListeners(0);
  private isOver = false;
  private readonly open = new Map<string, number>();

  /** Takes a place for a stream of somebody's; gives it back when called. Null where they have enough. */
  admit(personId: string, signIn: string): (() => void) | null {
    const places = [`person ${personId}`, `signIn ${signIn}`];
    const [person = 0, own = 0] = places.map((place) => this.open.get(place) ?? 0);
    if (person >= mostOfPerson || own >= mostOfSignIn) return null;
    const count = (by: number): void => {
      for (const place of places) {
        const there = (this.open.get(place) ?? 0) + by;
        if (there > 0) this.open.set(place, there);
        else this.open.delete(place);
      }
    };
    count(1);
    return () => count(-1);
  }

  publish(event: Event): void {
    this.emitter.emit('event', event);
  }

  /**
   * Calls back for every event from now on; nothing waits for what the callback does.
   * @param ended called once, when no more events come
   * @returns ends the subscription
   */
  subscribe(listener: (event: Event) => void, ended: () => void): () => void {
    if (this.isOver) {
      ended();
      return () => undefined;
    }
    this.emitter.on('event', listener).once('end', ended);
    return () => {
      this.emitter.off('event', listener).off('end', ended);
    };
  }

  /** Ends every subscription, those that come later too. */
  end(): void {
    this.isOver = true;
    this.emitter.emit('end');
  }
}
