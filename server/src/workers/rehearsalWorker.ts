import { type Rehearsal, Rehearsing, type Rulebook, type SightOf } from '@polychron/core';
import type { MessagePort } from 'node:worker_threads';
import { LibraryReading } from '../store/rehearsal.ts';

/** What a rehearsal is given; dates as milliseconds, sets as lists, since it crosses to another thread. */
export interface RehearsalTask {
  databaseUrl: string;
  libraryId: string;
  before: Rulebook;
  after: Rulebook;
  now: number;
  wanted: { offset: number; limit: number; documents: string[] | null; sightOf: SightOf | null };
  /** Sent how many of how many versions are read. */
  port: MessagePort;
}

/** Versions between two reports of progress. */
const stride = 5_000;

/** Rehearses rules over a library as it is at one moment, in a thread of its own. */
export default async function rehearse(task: RehearsalTask): Promise<Rehearsal> {
  const { before, after, wanted, port } = task;
  const library = await LibraryReading.open(task.databaseUrl, task.libraryId);
  try {
    const { members, total } = library.about;
    const rehearsing = new Rehearsing({
      before,
      after,
      members,
      now: new Date(task.now),
      wanted: {
        ...wanted,
        documents: wanted.documents ? new Set(wanted.documents) : undefined,
        sightOf: wanted.sightOf ?? undefined,
      },
    });
    const report = (done: number): void => {
      if (done % stride === 0) port.postMessage({ done, total });
    };
    for await (const document of library.read(report)) rehearsing.document(document);
    return rehearsing.result();
  } finally {
    await library.close();
    port.close();
  }
}
