import {
  admitCheckIn,
  admitUpload,
  type Asker,
  type Caller,
  type Context,
  performChangeFields,
  performCheckIn,
  performCheckOut,
  performConfirmRead,
  performCreate,
  performDecide,
  performDistribute,
  performLift,
  performLimit,
  performLooseCopy,
  performMarkTemplate,
  performPublish,
  performRestore,
  performSave,
  performShelter,
  performSubmit,
  performThin,
  performUpload,
  stageFile,
  uploaded,
} from '@polychron/server';
import { Readable } from 'node:stream';
import { makeDocx } from './docxFile.ts';
import type { Account } from './people.ts';
import { applyEdits, type Event, type Series, type Story } from './story.ts';
import type { Turns } from './turns.ts';

/** Where stories are lived, and the moment they lead up to. */
export interface Stage {
  context: Context;
  callers: Record<Account, Caller>;
  now: Date;
  turns: Turns;
}

type StagedFile = Awaited<ReturnType<typeof stageFile>>;

const day = 86_400_000;

/** The moment so many days before now, at a working hour that differs from day to day. */
function momentOf(stage: Stage, daysAgo: number): Date {
  const at = new Date(stage.now.getTime() - daysAgo * day);
  at.setUTCHours(7 + (daysAgo % 9), (daysAgo * 17) % 60, (daysAgo * 7) % 60, 0);
  return at;
}

const dateIn = (stage: Stage, days: number): string =>
  new Date(stage.now.getTime() + days * day).toISOString().slice(0, 10);

/** A document that is being lived: stories are lived side by side, by turns, each by a clock of its own. */
class Life {
  /** What the latest version says, and its name. */
  text = '';
  label = '';
  id = '';
  clock: Date;
  private readonly texts = new Map<string, string>();
  private readonly context: Context;

  constructor(
    private readonly stage: Stage,
    private readonly fileName: string,
    private readonly bytesOf: (text: string) => Promise<Buffer>,
  ) {
    this.clock = stage.now;
    this.context = { ...stage.context, clock: () => this.clock };
  }

  /** Goes on at that moment, once every other story has come so far. */
  async reachTime(at: Date): Promise<void> {
    await this.stage.turns.until(at);
    this.clock = at;
  }

  by(account: Account): Asker {
    return { context: this.context, caller: this.stage.callers[account] };
  }

  /** Hands a text over as a file, which is gone afterwards. */
  async withFile<T>(text: string, run: (file: StagedFile) => Promise<T>): Promise<T> {
    const file = await stageFile(this.context, Readable.from([await this.bytesOf(text)]), this.fileName);
    try {
      return await run(file);
    } finally {
      await file.remove();
    }
  }

  async begin(of: Omit<Story, 'events' | 'first' | 'text'>, text: string, first: First): Promise<void> {
    const { callers } = this.stage;
    const fields = {
      number: of.number,
      title: of.title,
      type: of.kind,
      subject: of.subject,
      owner: callers[of.owner].account,
      reviewBy: dateIn(this.stage, of.reviewInDays),
      ...of.own,
    };
    await this.reachTime(first.at);
    const document = await this.withFile(text, (file) => {
      const wanted = { fields, comment: first.comment, level: first.level };
      return performCreate(this.by(first.by), first.libraryId, wanted, uploaded(this.context, file));
    });
    this.id = document.id;
    this.reach(document.latest, text);
  }

  async upload(by: Account, command: { level: 'minor' | 'major'; comment: string }): Promise<void> {
    const asker = this.by(by);
    const admitted = await admitUpload(asker, this.id);
    const asked = { ...command, basedOn: this.label, confirm: ['same-bytes' as const], keepFileName: true };
    this.reach(await this.withFile(this.text, (file) => performUpload(asker, admitted, asked, file)));
  }

  /** A version was made of the text as it now is. */
  reach({ label }: { label: string }, text = this.text): void {
    this.text = text;
    this.label = label;
    this.texts.set(label, text);
  }

  goBackTo(label: string): void {
    this.text = this.texts.get(label) ?? this.text;
  }
}

interface First {
  at: Date;
  by: Account;
  libraryId: string;
  comment: string;
  level: 'minor' | 'major';
}

/**
 * Lives a document's story through the same acts that people use; every version is checked in at its own
 * time.
 */
export async function liveStory(
  stage: Stage,
  libraryId: string,
  story: Story,
  level: 'minor' | 'major' = 'minor',
): Promise<void> {
  const fileName = `${story.number} ${story.title}.${story.ending ?? 'docx'}`;
  const bytesOf = async (text: string): Promise<Buffer> =>
    story.ending ? Buffer.from(text) : makeDocx(text, story);
  const life = new Life(stage, fileName, bytesOf);
  const { daysAgo, ...first } = story.first;
  await life.begin(story, story.text, { ...first, at: momentOf(stage, daysAgo), libraryId, level });
  for (const event of story.events) {
    await life.reachTime(momentOf(stage, event.daysAgo));
    await liveEvent(life, event, stage.now);
  }
}

async function liveEvent(life: Life, event: Event, now: Date): Promise<void> {
  const { id } = life;
  const asker = life.by(event.by);
  const from = 'inDays' in event && event.inDays !== undefined ? event.inDays : null;
  const inForceFrom = from === null ? null : new Date(now.getTime() + from * day);
  switch (event.act) {
    case 'checkIn':
      return liveCheckIn(life, event);
    case 'upload':
      life.text = applyEdits(life.text, event.edits);
      return life.upload(event.by, { level: event.level, comment: event.comment });
    case 'publish':
      return life.reach(await performPublish(asker, id, { comment: event.comment ?? '', inForceFrom }));
    case 'submit':
      await performSubmit(asker, id, { comment: event.comment ?? '', inForceFrom });
      return;
    case 'decide': {
      const { decision, comment = '' } = event;
      return life.reach(await performDecide(asker, id, { version: life.label, decision, comment }));
    }
    case 'shelter': {
      const of = { documentId: id, name: event.version };
      await performShelter(asker, of, { reason: event.reason, sheltered: true });
      return;
    }
    case 'thin':
      await performThin(asker, { documentId: id, name: event.version }, event.reason);
      return;
    case 'restore': {
      const { level, comment = '' } = event;
      life.goBackTo(event.from);
      return life.reach(await performRestore(asker, id, { from: event.from, level, comment, fields: false }));
    }
    case 'template':
      await performMarkTemplate(asker, id, event.type);
      return;
    case 'fields': {
      const { fields, comment } = event;
      return life.reach(await performChangeFields(asker, id, { fields, comment }));
    }
    case 'hold':
      return liveHold(life, event);
    case 'lift':
      await performLift(asker, id, event.reason);
      return;
    case 'distribute':
      await performDistribute(asker, id, { people: event.people, groups: event.groups ?? [] });
      return;
    case 'read':
      await performConfirmRead(asker, id, event.version);
      return;
    case 'limit': {
      const { people, groups = [], reason } = event;
      await performLimit(asker, id, { limit: { people, groups }, reason, rehearse: false });
      return;
    }
    case 'looseCopy':
      await performLooseCopy(asker, id, event.version);
  }
}

async function liveCheckIn(life: Life, event: Extract<Event, { act: 'checkIn' }>): Promise<void> {
  const { id, clock } = life;
  const asker = life.by(event.by);
  life.text = applyEdits(life.text, event.edits);
  await life.reachTime(new Date(clock.getTime() - day / 4));
  await performCheckOut(asker, id, { reason: null, until: null });
  await life.reachTime(clock);
  const { level, comment } = event;
  const held = await admitCheckIn(asker, id);
  const command = { level, comment, keepCheckedOut: false, confirm: [], keepFileName: false };
  life.reach(await life.withFile(life.text, (file) => performCheckIn(asker, id, command, { held, file })));
}

async function liveHold(life: Life, event: Extract<Event, { act: 'hold' }>): Promise<void> {
  const { id, clock } = life;
  const asker = life.by(event.by);
  const until = new Date(clock.getTime() + event.days * day);
  await performCheckOut(asker, id, { reason: event.reason, until });
  let held = life.text;
  for (const [index, edits] of event.saves.entries()) {
    held = applyEdits(held, edits);
    await life.reachTime(new Date(clock.getTime() + (index + 1) * day * 0.4));
    await life.withFile(held, (file) => performSave(asker, id, file));
  }
}

/** Lives a long series of small changes, uploaded one after another, every few of them published. */
export async function liveSeries(stage: Stage, libraryId: string, series: Series): Promise<void> {
  const life = new Life(stage, `${series.number} ${series.title}.docx`, (text) => makeDocx(text, series));
  // From the first day to yesterday, evenly, at a working hour.
  const momentOfPlace = (place: number): Date => {
    const share = (series.versions - 1 - place) / (series.versions - 1);
    return new Date(stage.now.getTime() - day - share * series.days * day);
  };
  const first = { at: momentOfPlace(0), by: series.by, comment: series.commentAt(0) };
  await life.begin(series, series.textAt(0), { ...first, libraryId, level: 'minor' });
  for (let place = 1; place < series.versions; place += 1) {
    const comment = series.commentAt(place);
    await life.reachTime(momentOfPlace(place));
    if (place % series.publishEvery === series.publishEvery - 1) {
      const command = { comment, inForceFrom: null };
      life.reach(await performPublish(life.by('controller'), life.id, command));
    } else {
      life.text = series.textAt(place);
      await life.upload(series.by, { level: 'minor', comment });
    }
  }
}
