import { Readable } from 'node:stream';
import { checkIn, checkOut, changeFields, createDocument, publish, restore, saveWorkingCopy, stageFile, type Caller, type Context } from '@polychron/server';
import { makeDocx } from './docxFile.ts';
import type { Account } from './people.ts';
import { applyEdits, type Story } from './story.ts';

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
export async function liveStory(stage: Stage, libraryId: string, story: Story): Promise<void> {
  const { callers } = stage;
  let clock = stage.now;
  // Stories are lived side by side, each by a clock of its own.
  const context: Context = { ...stage.context, clock: () => clock };
  const fileName = `${story.number} ${story.title}.docx`;
  const stageText = async (text: string) => stageFile(context, Readable.from([await makeDocx(text, story)]), fileName);
  const texts = new Map<string, string>();
  let text = story.text;

  clock = momentOf(stage, story.first.daysAgo);
  const first = await stageText(text);
  const document = await createDocument(context, callers[story.first.by], libraryId, {
    fields: {
      number: story.number, title: story.title, type: story.kind, subject: story.subject, owner: callers[story.owner].account,
      reviewBy: new Date(stage.now.getTime() + story.reviewInDays * day).toISOString().slice(0, 10),
    },
    comment: story.first.comment, level: 'minor',
  }, first);
  await first.remove();
  texts.set(document.latest.label, text);

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
        texts.set(made.label, text);
        break;
      }
      case 'publish': {
        const made = await publish(context, caller, document.id, { comment: event.comment ?? '' });
        texts.set(made.label, text);
        break;
      }
      case 'restore': {
        text = texts.get(event.from) ?? text;
        const made = await restore(context, caller, document.id, { from: event.from, level: event.level, comment: event.comment ?? '', fields: false });
        texts.set(made.label, text);
        break;
      }
      case 'fields':
        await changeFields(context, caller, document.id, { fields: event.fields, comment: event.comment });
        break;
      case 'hold': {
        await checkOut(context, caller, document.id, { reason: event.reason, until: new Date(at.getTime() + event.days * day) });
        for (const [index, edits] of event.saves.entries()) {
          text = applyEdits(text, edits);
          clock = new Date(at.getTime() + (index + 1) * day * 0.4);
          const file = await stageText(text);
          await saveWorkingCopy(context, caller, document.id, file);
          await file.remove();
        }
        break;
      }
    }
  }
}

