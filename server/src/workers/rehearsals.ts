import { MessageChannel } from 'node:worker_threads';
import { LRUCache } from 'lru-cache';
import { Piscina } from 'piscina';
import { v7 as newId } from 'uuid';
import { refuse, type Rehearsal } from '@polychron/core';
import { Refused } from '../refused.ts';
import { workerFile } from './workerFile.ts';
import type { RehearsalTask } from './rehearsalWorker.ts';

/** A rehearsal under way or over. Results wait here for a while for whoever asked. */
export interface RunningRehearsal {
  id: string;
  personId: string;
  libraryId: string;
  state: 'running' | 'done' | 'cancelled' | 'failed';
  done: number;
  total: number | null;
  result: Rehearsal | null;
  problem: { code: string; detail: string } | null;
  /** Settles when it is over, however it went. */
  over: Promise<void>;
  cancel(): void;
}

/** Rehearses changes of rules in threads of their own; each can be asked how far it is, and cancelled. */
export class Rehearsals {
  private pool: Piscina | null = null;
  private readonly known = new LRUCache<string, RunningRehearsal>({
    max: 100,
    ttl: 10 * 60_000,
    dispose: (rehearsal) => rehearsal.cancel(),
  });

  /** Begins a rehearsal for somebody; it runs until it is over or cancelled. */
  start(task: Omit<RehearsalTask, 'port'>, personId: string): RunningRehearsal {
    this.pool ??= new Piscina({
      filename: workerFile('rehearsalWorker'),
      minThreads: 0,
      maxThreads: 2,
      idleTimeout: 30_000,
    });
    const abort = new AbortController();
    const { port1, port2 } = new MessageChannel();
    const rehearsal: RunningRehearsal = {
      id: newId(),
      personId,
      libraryId: task.libraryId,
      state: 'running',
      done: 0,
      total: null,
      result: null,
      problem: null,
      over: Promise.resolve(),
      cancel: () => abort.abort(),
    };
    port1.on('message', (progress: { done: number; total: number }) => Object.assign(rehearsal, progress));
    rehearsal.over = this.pool
      .run({ ...task, port: port2 }, { signal: abort.signal, transferList: [port2] })
      .then(
        (result: Rehearsal) => {
          Object.assign(rehearsal, { state: 'done', result, done: result.versions, total: result.versions });
        },
        (error: unknown) => {
          const cancelled = abort.signal.aborted;
          const why = error instanceof Error ? error.message : String(error);
          const detail = cancelled
            ? 'The computation was cancelled. Nothing was changed.'
            : `The consequences could not be computed: ${why}`;
          const state = cancelled ? 'cancelled' : 'failed';
          Object.assign(rehearsal, {
            state,
            problem: { code: cancelled ? 'cancelled' : 'unexpected', detail },
          });
        },
      )
      .finally(() => port1.close());
    this.known.set(rehearsal.id, rehearsal);
    return rehearsal;
  }

  /** A rehearsal by its id, for whoever started it; null for anybody else. */
  find(id: string, personId: string): RunningRehearsal | null {
    const rehearsal = this.known.get(id);
    return rehearsal?.personId === personId ? rehearsal : null;
  }

  async close(): Promise<void> {
    this.known.clear();
    await this.pool?.destroy();
  }
}

/** The result of a rehearsal that is over. @throws Refused where it was cancelled */
export function resultOf(rehearsal: RunningRehearsal): Rehearsal {
  if (rehearsal.result) return rehearsal.result;
  if (rehearsal.state === 'cancelled')
    throw new Refused(refuse('conflict', 'cancelled', 'The computation was cancelled. Nothing was changed.'));
  throw new Error(rehearsal.problem?.detail ?? 'the rehearsal has no result');
}
