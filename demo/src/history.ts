import { Readable } from 'node:stream';
import {
  checkIn, checkOut, changeFields, createDocument, decide, lift, publish, restore, saveWorkingCopy, shelterVersion, stageFile, submit, takeLooseCopy, thinVersion, uploadVersion, type Caller, type Context,
} from '@polychron/server';
import { makeDocx } from './docxFile.ts';
import type { Account } from './people.ts';
import { applyEdits, type Series, type Story } from './story.ts';

/** Where stories are lived, and the moment they lead up to. */
export interface Stage { context: Context; callers: Record<Account, Caller>; now: Date }

const day = 86_400_000;

/** The moment so many days before now, at a working hour that differs from day to day. */
function momentOf(stage: Stage, daysAgo: number): Date {
  const at = new Date(stage.now.getTime() - daysAgo * day);
  at.setUTCHours(7 + (daysAgo % 9), (daysAgo * 17) % 60, (daysAgo * 7) % 60, 0);
  return at;
}

/** Lives a document's story through the same services that people use; every version is checked in at its own time. */
export async function liveStory(stage: Stage, libraryId: string, story: Story, firstLevel: 'minor' | 'major' = 'minor'): Promise<void> {
  const { callers } = stage;
  let clock = stage.now;
  // Stories are lived side by side, each by a clock of its own.
  const context: Context = { ...stage.context, clock: () => clock };
  const fileName = `${story.number} ${story.title}.${story.ending ?? 'docx'}`;
  const stageText = async (text: string) => stageFile(context, Readable.from([story.ending ? Buffer.from(text) : await makeDocx(text, story)]), fileName);
  const texts = new Map<string, string>();
  let text = story.text;

  clock = momentOf(stage, story.first.daysAgo);
  const first = await stageText(text);
  const document = await createDocument(context, callers[story.first.by], libraryId, {
    fields: {
      number: story.number, title: story.title, type: story.kind, subject: story.subject, owner: callers[story.owner].account,
      reviewBy: new Date(stage.now.getTime() + story.reviewInDays * day).toISOString().slice(0, 10),
    },
    comment: story.first.comment, level: firstLevel,
  }, first);
  await first.remove();
  texts.set(document.latest.label, text);
  let { label } = document.latest;
  const momentIn = (days: number | undefined): Date | null => (days === undefined ? null : new Date(stage.now.getTime() + days * day));

  for (const event of story.events) {
    const caller = callers[event.by];
    const at = momentOf(stage, event.daysAgo);
    clock = at;
    switch (event.act) {
      case 'checkIn': {
        text = applyEdits(text, event.edits);
        const file = await stageText(text);
        clock = new Date(at.getTime() - day / 4);
        await checkOut(context, caller, document.id, { reason: null, until: null });
        clock = at;
        const made = await checkIn(context, caller, document.id, { level: event.level, comment: event.comment, keepCheckedOut: false, confirm: [], keepFileName: false }, file);
        await file.remove();
        texts.set(label = made.label, text);
        break;
      }
      case 'upload': {
        text = applyEdits(text, event.edits);
        const file = await stageText(text);
        const made = await uploadVersion(context, caller, document.id, { basedOn: label, level: event.level, comment: event.comment, confirm: [], keepFileName: true }, file);
        await file.remove();
        texts.set(label = made.label, text);
        break;
      }
      case 'publish': {
        const made = await publish(context, caller, document.id, { comment: event.comment ?? '', inForceFrom: momentIn(event.inDays) });
        texts.set(label = made.label, text);
        break;
      }
      case 'submit':
        await submit(context, caller, document.id, { comment: event.comment ?? '', inForceFrom: momentIn(event.inDays) });
        break;
      case 'decide': {
        const made = await decide(context, caller, document.id, { version: label, decision: event.decision, comment: event.comment ?? '' });
        texts.set(label = made.label, text);
        break;
      }
      case 'shelter':
        await shelterVersion(context, caller, document.id, event.version, event.reason, true);
        break;
      case 'thin':
        await thinVersion(context, caller, document.id, event.version, event.reason);
        break;
      case 'restore': {
        text = texts.get(event.from) ?? text;
        const made = await restore(context, caller, document.id, { from: event.from, level: event.level, comment: event.comment ?? '', fields: false });
        texts.set(label = made.label, text);
        break;
      }
      case 'fields':
        ({ label } = await changeFields(context, caller, document.id, { fields: event.fields, comment: event.comment }));
        break;
      case 'hold': {
        await checkOut(context, caller, document.id, { reason: event.reason, until: new Date(at.getTime() + event.days * day) });
        let held = text;
        for (const [index, edits] of event.saves.entries()) {
          held = applyEdits(held, edits);
          clock = new Date(at.getTime() + (index + 1) * day * 0.4);
          const file = await stageText(held);
          await saveWorkingCopy(context, caller, document.id, file);
          await file.remove();
        }
        break;
      }
      case 'lift':
        await lift(context, caller, document.id, event.reason);
        break;
      case 'looseCopy':
        await takeLooseCopy(context, caller, document.id, event.version);
        break;
    }
  }
}

/** Lives a long series of small changes, uploaded one after another, every few of them published. */
export async function liveSeries(stage: Stage, libraryId: string, series: Series): Promise<void> {
  const { callers, now } = stage;
  let clock = now;
  const context: Context = { ...stage.context, clock: () => clock };
  const fileName = `${series.number} ${series.title}.docx`;
  const stageText = async (place: number) => stageFile(context, Readable.from([await makeDocx(series.textAt(place), series)]), fileName);
  const caller = callers[series.by];
  // From the first day to yesterday, evenly, at a working hour.
  const momentOfPlace = (place: number): Date => new Date(now.getTime() - day - ((series.versions - 1 - place) / (series.versions - 1)) * series.days * day);

  clock = momentOfPlace(0);
  const first = await stageText(0);
  const document = await createDocument(context, caller, libraryId, {
    fields: {
      number: series.number, title: series.title, type: series.kind, subject: series.subject, owner: callers[series.owner].account,
      reviewBy: new Date(now.getTime() + series.reviewInDays * day).toISOString().slice(0, 10),
    },
    comment: series.commentAt(0), level: 'minor',
  }, first);
  await first.remove();
  let { label } = document.latest;
  for (let place = 1; place < series.versions; place += 1) {
    clock = momentOfPlace(place);
    if (place % series.publishEvery === series.publishEvery - 1) ({ label } = await publish(context, callers.controller, document.id, { comment: series.commentAt(place) }));
    else {
      const file = await stageText(place);
      ({ label } = await uploadVersion(context, caller, document.id, { basedOn: label, level: 'minor', comment: series.commentAt(place), confirm: ['same-bytes'], keepFileName: true }, file));
      await file.remove();
    }
  }
}
