import { callBack } from '../acts/callBack.ts';
import { changeFields } from '../acts/changeFields.ts';
import { bringIn } from '../acts/bringIn.ts';
import { checkIn } from '../acts/checkIn.ts';
import { checkOut } from '../acts/checkOut.ts';
import { decide } from '../acts/decide.ts';
import { confirmRead, distribute, remindReaders } from '../acts/distribute.ts';
import { giveBack } from '../acts/giveBack.ts';
import { handOver } from '../acts/handOver.ts';
import { History } from '../acts/history.ts';
import { lift } from '../acts/lift.ts';
import { limitDocument } from '../acts/limit.ts';
import { markTemplate } from '../acts/markTemplate.ts';
import { closeInProgram, keepForLater, keepOpen, openInProgram } from '../acts/openInProgram.ts';
import { prolong } from '../acts/prolong.ts';
import { publish } from '../acts/publish.ts';
import { recover } from '../acts/recover.ts';
import { reinstate } from '../acts/reinstate.ts';
import { replaceApprover } from '../acts/replaceApprover.ts';
import { restore } from '../acts/restore.ts';
import { review } from '../acts/review.ts';
import { saveWorkingCopy } from '../acts/save.ts';
import { refuseWithoutSchedule, reschedule, takeBack } from '../acts/schedule.ts';
import { shelter } from '../acts/shelter.ts';
import type { Named, Outcome } from '../acts/state.ts';
import { submit } from '../acts/submit.ts';
import { thin } from '../acts/thin.ts';
import { upload } from '../acts/upload.ts';
import { unvoidDocument, voidDocument } from '../acts/voiding.ts';
import { withdraw } from '../acts/withdraw.ts';
import type { Version } from '../document/version.ts';
import type { Actor } from '../rules/roles.ts';
import type { RulebookChoices } from '../rules/rulebook.ts';
import { change, hold, into, publishLatest } from './acts.ts';
import { author2, publishedAfter, publishedBefore } from './lives.ts';
import { actor, approver, approver2, author, begin, content, controller, fields } from './people.ts';

const day = 86_400_000;
// With spaces about them, which are not kept.
const reason = ' Because ';
const comment = ' Said ';
const inDays = (history: History, days: number): Date => new Date(history.now.getTime() + days * day);
const named = (...memberIds: string[]): Named => ({ personIds: memberIds, groupIds: [], memberIds });
const submitted = (history: History): History =>
  history.do(
    submit(history.state, author, { version: history.state.latest, comment, inForceFrom: null }, history.now),
  );
const decided = (history: History, who: Actor, decision: 'approve' | 'reject' | 'later'): History =>
  history.do(decide(history.state, who, { version: history.state.latest, decision, comment }, history.now));
const saved = (history: History, who: Actor = author): History =>
  history.do(
    saveWorkingCopy(history.state, who, { content: content('saved words'), sitting: null }, history.now),
  );
const lock = (history: History, token: string, days = 1) => ({
  token,
  owner: '<owner/>',
  until: inDays(history, days),
});
const opened = (history: History): History =>
  history.do(openInProgram(history.state, author, lock(history, 'held'), history.now));

/** The author is asked as well. */
const askedToo = { approvers: [{ ...author, roles: new Set(['author', 'approver'] as const) }, approver] };

const inTurn: RulebookChoices = { approval: { on: true, approvers: ['approver', 'approver2'] } };
const together: RulebookChoices = {
  approval: { on: true, mode: 'together', publishing: 'byOwner', approvers: ['approver', 'approver2'] },
};

/** How a document may stand, each as it came to be so. */
export const situations: Record<string, () => History> = {
  'a first draft': () => begin(),
  'in force': () => begin({}, 'first', 'major'),
  'a draft above what is in force': () => change(begin({}, 'first', 'major'), 'second'),
  'two were published': () => publishLatest(change(begin({}, 'first', 'major'), 'second words')),
  'held with a save': () => saved(hold(begin({}, 'first', 'major'))),
  'held by a colleague': () => hold(begin({}, 'first', 'major'), author2),
  'open in a program': () => saved(opened(begin({}, 'first', 'major'))),
  'open in a program, closing checks in': () =>
    saved(opened(begin({ closedInProgram: 'checksIn' }, 'first', 'major'))),
  'approval in turn, a draft': () => begin(inTurn),
  'the first of two is asked': () => submitted(begin(inTurn)),
  'the second of two is asked': () => decided(submitted(begin(inTurn)), approver, 'approve'),
  'controllers decide in the place of others': () =>
    submitted(begin({ approval: { ...inTurn.approval, controllersDecide: true } })),
  'the second of two is asked, controllers decide in the place of others': () =>
    decided(
      submitted(begin({ approval: { ...inTurn.approval, controllersDecide: true } })),
      approver,
      'approve',
    ),
  'its author is one of two who are asked': () =>
    submitted(
      new History({ approval: together.approval ?? {} }, author, askedToo).create(content('first'), fields),
    ),
  approved: () => decided(decided(submitted(begin(together)), approver, 'approve'), approver2, 'approve'),
  rejected: () => decided(submitted(begin(together)), approver, 'reject'),
  scheduled: () => {
    const history = change(begin({}, 'first', 'major'), 'second');
    const command = { version: history.state.latest, comment, inForceFrom: inDays(history, 30) };
    return history.do(publish(history.state, author, command, history.now));
  },
  withdrawn: () => {
    const history = publishLatest(change(begin({}, 'first', 'major'), 'second'));
    const version = history.state.latest;
    const previous = publishedBefore(history.versions, version);
    return history.do(withdraw(history.state, controller, { version, reason, previous }, history.now));
  },
  'the draft before is thinned': () => {
    const history = publishLatest(change(begin({}, 'first', 'major'), 'second'));
    return history.do(
      thin(history.state, controller, { version: history.version('1.1'), reason }, history.now),
    );
  },
  'the draft before is sheltered': () => {
    const history = publishLatest(change(begin({}, 'first', 'major'), 'second'));
    return history.do(
      shelter(history.state, controller, { version: history.version('1.1'), reason, sheltered: true }),
    );
  },
  'a copy of the draft before is set aside': () => {
    const history = saved(hold(change(begin({}, 'first', 'major'), 'second')));
    history.do(lift(history.state, controller, { reason }));
    return change(history, 'third');
  },
  'two are scheduled': () => {
    const history = change(begin({}, 'first', 'major'), 'second');
    const later = (days: number): History =>
      history.do(
        publish(
          history.state,
          author,
          { version: history.state.latest, comment, inForceFrom: inDays(history, days) },
          history.now,
        ),
      );
    later(20);
    change(history, 'third');
    return later(30);
  },
  'whole numbers, asked about': () => begin({ ...inTurn, numbering: 'whole' }, 'first', 'major'),
  'no numbers': () => begin({ numbering: 'none', checkInComment: 'optional' }, 'first', 'major'),
  'custody optional': () => change(begin({ custody: 'optional' }, 'first', 'major'), 'second'),
  voided: () => {
    const history = begin({}, 'first', 'major');
    return history.do(voidDocument(history.state, controller, { reason, registration: null }, history.now));
  },
  'kept to some, distributed, a template': () => {
    const history = begin({}, 'first', 'major');
    history.do(limitDocument(history.state, controller, { limit: named('reader', 'author2'), reason }));
    history.do(distribute(history.state, author, { distribution: named('reader') }, history.now));
    return history.do(markTemplate(history.state, controller, { type: 'Plan' }));
  },
};

type Doing = (history: History, by: Actor) => Outcome;
const incoming = (words: string, more: object = {}) => ({
  ...into('minor', words, { confirm: [], comment, ...more }),
  content: content(words),
});
/** What a file's mark says. */
const taken = { label: '0.7', versionId: 'elsewhere', sha256: null };
/** An act on the version before the latest, or the latest where it is the only one. */
const onVersion =
  (act: (history: History, by: Actor, version: Version) => Outcome): Doing =>
  (history, by) =>
    act(history, by, history.versions.at(-2) ?? history.state.latest);

/** Everything that is done to a document: as it should be, and as it should not. */
export const attempts: Record<string, Doing> = {
  'check out': ({ state, now }, by) => checkOut(state, by, { reason: ' Why ', until: null }, now),
  'check out until yesterday': (history, by) =>
    checkOut(history.state, by, { reason: null, until: inDays(history, -1) }, history.now),
  prolong: (history, by) => prolong(history.state, by, { until: inDays(history, 3) }, history.now),
  'prolong to the past': (history, by) =>
    prolong(history.state, by, { until: inDays(history, -3) }, history.now),
  save: ({ state, now }, by) =>
    saveWorkingCopy(state, by, { content: content('more words'), sitting: 'one' }, now),
  'give back': ({ state }, by) => giveBack(state, by),
  lift: ({ state }, by) => lift(state, by, { reason }),
  'lift without a word': ({ state }, by) => lift(state, by, { reason: ' ' }),
  'check in': ({ state, now }, by) => checkIn(state, by, incoming('third'), now),
  'check in as major, going on': ({ state, now }, by) =>
    checkIn(state, by, { ...incoming('third'), level: 'major', keepCheckedOut: true }, now),
  'check in without a comment': ({ state, now }, by) =>
    checkIn(state, by, incoming('third', { comment: '' }), now),
  'check in another type under another name': ({ state, now }, by) =>
    checkIn(state, by, { ...incoming('third'), content: content('third', 'other.odt') }, now),
  'bring in a copy of an earlier version': onVersion(({ state, now }, by, base) =>
    bringIn(state, by, { ...incoming('brought'), base, merged: false }, now),
  ),
  'bring in what is merged': onVersion(({ state, now }, by, base) =>
    bringIn(state, by, { ...incoming('brought'), base, merged: true }, now),
  ),
  upload: ({ state, now }, by) => upload(state, by, { ...incoming('sent'), basedOn: state.latest }, now),
  'upload what is based on an earlier version': onVersion(({ state, now }, by, basedOn) =>
    upload(state, by, { ...incoming('sent'), basedOn }, now),
  ),
  restore: onVersion(({ state, now }, by, from) =>
    restore(state, by, { from, level: 'minor', comment, fields: true }, now),
  ),
  'restore as major': onVersion(({ state, now }, by, from) =>
    restore(state, by, { from, level: 'major', comment, fields: false }, now),
  ),
  'change fields': ({ state, now }, by) =>
    changeFields(state, by, { fields: { title: 'Another title' }, comment }, now),
  publish: ({ state, now }, by) =>
    publish(state, by, { version: state.latest, comment, inForceFrom: null }, now),
  'publish later': (history, by) =>
    publish(
      history.state,
      by,
      { version: history.state.latest, comment, inForceFrom: inDays(history, 9) },
      history.now,
    ),
  submit: ({ state, now }, by) =>
    submit(state, by, { version: state.latest, comment, inForceFrom: null }, now),
  'submit for a moment past': (history, by) =>
    submit(
      history.state,
      by,
      { version: history.state.latest, comment, inForceFrom: inDays(history, -1) },
      history.now,
    ),
  approve: ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'approve', comment: '' }, now),
  reject: ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'reject', comment }, now),
  'reject without a word': ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'reject', comment: '' }, now),
  'not yet': ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'later', comment }, now),
  'approve another version': onVersion(({ state, now }, by, version) =>
    decide(state, by, { version, decision: 'approve', comment }, now),
  ),
  'approve in their place': ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'approve', comment, inPlace: true }, now),
  'put another in the place of an approver': ({ state, now }, by) =>
    replaceApprover(
      state,
      by,
      { from: approver, to: { ...approver, id: 'third', name: 'THIRD' }, reason },
      now,
    ),
  'put an approver in the place of nobody': ({ state, now }, by) =>
    replaceApprover(state, by, { from: author, to: approver2, reason }, now),
  'call back': ({ state, now }, by) => callBack(state, by, { comment }, now),
  withdraw: ({ state, versions, now }, by) => {
    const version = state.inForce ?? state.latest;
    return withdraw(state, by, { version, reason, previous: publishedBefore(versions, version) }, now);
  },
  'withdraw without a word': ({ state, now }, by) =>
    withdraw(state, by, { version: state.inForce ?? state.latest, reason: '', previous: null }, now),
  reinstate: ({ state, versions, now }, by) => {
    const [version = state.latest] = versions;
    return reinstate(state, by, { version, reason, later: publishedAfter(versions, version) }, now);
  },
  reschedule: (history, by) =>
    reschedule(
      history.state,
      by,
      { version: history.state.latest, inForceFrom: inDays(history, 2) },
      history.now,
    ),
  'make it now': ({ state, now }, by) =>
    reschedule(state, by, { version: state.latest, inForceFrom: null }, now),
  'take back': ({ state, now }, by) => takeBack(state, by, { version: state.latest, reason }, now),
  thin: onVersion(({ state, now }, by, version) => thin(state, by, { version, reason }, now)),
  'thin the latest': ({ state, now }, by) => thin(state, by, { version: state.latest, reason }, now),
  recover: onVersion(({ state, now }, by, version) => recover(state, by, { version, reason }, now)),
  shelter: onVersion(({ state }, by, version) => shelter(state, by, { version, reason, sheltered: true })),
  unshelter: onVersion(({ state }, by, version) => shelter(state, by, { version, reason, sheltered: false })),
  'keep it to some': ({ state }, by) => limitDocument(state, by, { limit: named('reader'), reason }),
  'open it to all': ({ state }, by) => limitDocument(state, by, { limit: null, reason }),
  distribute: ({ state, now }, by) =>
    distribute(state, by, { distribution: named('reader', 'auditor') }, now),
  'distribute to nobody': ({ state, now }, by) => distribute(state, by, { distribution: null }, now),
  'make it a template': ({ state }, by) => markTemplate(state, by, { type: ' Plan ' }),
  'make it none': ({ state }, by) => markTemplate(state, by, { type: ' ' }),
  'confirm it on review': (history, by) =>
    review(history.state, by, { outcome: 'confirmed', comment, nextBy: '2027-01-01' }, history.now),
  'confirm it until yesterday': (history, by) =>
    review(history.state, by, { outcome: 'confirmed', comment, nextBy: '2025-01-01' }, history.now),
  'open it on review': ({ state, now }, by) =>
    review(state, by, { outcome: 'opened', comment, nextBy: null }, now),
  'void it': ({ state, now }, by) => voidDocument(state, by, { reason, registration: null }, now),
  'void it without a word': ({ state, now }, by) =>
    voidDocument(state, by, { reason: ' ', registration: null }, now),
  'take back that it was registered': ({ state, now }, by) => {
    const registration = { byId: author.id, at: now, published: false, touched: false };
    return voidDocument(state, by, { reason, registration }, now);
  },
  'let it stand again': ({ state }, by) => unvoidDocument(state, by, { reason }),
  'open in a program': (history, by) =>
    openInProgram(history.state, by, lock(history, 'another'), history.now),
  'keep it open there': (history, by) => keepOpen(history.state, by, lock(history, 'held', 2), history.now),
  'keep it open by another token': (history, by) =>
    keepOpen(history.state, by, lock(history, 'wrong'), history.now),
  'close it there': ({ state, now }, by) => closeInProgram(state, by, 'held', now),
  'close it by another token': ({ state, now }, by) => closeInProgram(state, by, 'wrong', now),
  'close it whatever the token': ({ state, now }, by) => closeInProgram(state, by, null, now),
  'keep it for later': ({ state }, by) => keepForLater(state, by),
  'hand over what one answers for': ({ state, now }, by) =>
    handOver(state, { from: by, to: author2, ownApproverIds: [], asideBases: [], by: 'The office' }, now),
  'check in what is taken from another document': ({ state, now }, by) =>
    checkIn(state, by, incoming('third', { taken: { ...taken, number: 'ANOTHER-1' } }), now),
  'check in what is taken from an earlier version': ({ state, now }, by) =>
    checkIn(state, by, incoming('third', { taken: { ...taken, number: state.number } }), now),
  'check in the same bytes': ({ state, now }, by) =>
    checkIn(state, by, { ...incoming(''), content: state.latest.content }, now),
  'check in the same but for its mark': ({ state, now }, by) =>
    checkIn(state, by, incoming('third', { sameButForMark: true }), now),
  'check in more than may be said': ({ state, now }, by) =>
    checkIn(state, by, incoming('third', { comment: 'x'.repeat(4001) }), now),
  'publish an earlier version': onVersion(({ state, now }, by, version) =>
    publish(state, by, { version, comment, inForceFrom: null }, now),
  ),
  'submit an earlier version': onVersion(({ state, now }, by, version) =>
    submit(state, by, { version, comment, inForceFrom: null }, now),
  ),
  'change no field': ({ state, now }, by) =>
    changeFields(state, by, { fields: { ...state.latest.fields }, comment }, now),
  'approve in their place without a word': ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'approve', comment: ' ', inPlace: true }, now),
  'not yet, in their place': ({ state, now }, by) =>
    decide(state, by, { version: state.latest, decision: 'later', comment, inPlace: true }, now),
  'put who is asked in the place of an approver': ({ state, now }, by) =>
    replaceApprover(state, by, { from: approver, to: approver2, reason }, now),
  'put a reader in the place of an approver': ({ state, now }, by) =>
    replaceApprover(state, by, { from: approver, to: actor('reader', 'reader'), reason }, now),
  'put another in the place without a word': ({ state, now }, by) =>
    replaceApprover(state, by, { from: approver, to: actor('third', 'approver'), reason: ' ' }, now),
  'take back without a word': ({ state, now }, by) =>
    takeBack(state, by, { version: state.latest, reason: '' }, now),
  'take back what is not named': ({ state }, by) =>
    refuseWithoutSchedule(state, by) ?? { changes: [], ledger: { act: 'takeBack', facts: {} } },
  'thin without a word': onVersion(({ state, now }, by, version) =>
    thin(state, by, { version, reason: ' ' }, now),
  ),
  'recover too late': onVersion((history, by, version) =>
    recover(history.state, by, { version, reason }, inDays(history, 400)),
  ),
  'recover without a word': onVersion(({ state, now }, by, version) =>
    recover(state, by, { version, reason: '' }, now),
  ),
  'reinstate the latest, without a word': ({ state, now }, by) =>
    reinstate(state, by, { version: state.latest, reason: '', later: [] }, now),
  'shelter without a word': onVersion(({ state }, by, version) =>
    shelter(state, by, { version, reason: '', sheltered: true }),
  ),
  'unshelter without a word': onVersion(({ state }, by, version) =>
    shelter(state, by, { version, reason: '', sheltered: false }),
  ),
  'keep it to the same': ({ state }, by) =>
    limitDocument(state, by, { limit: named('reader', 'author2'), reason: '' }),
  'distribute to the same': ({ state, now }, by) =>
    distribute(state, by, { distribution: named('reader') }, now),
  'confirm having read it': onVersion(({ state, now }, by, version) =>
    confirmRead(state, by, { version: state.inForce ?? version, confirmed: null }, now),
  ),
  'confirm having read it again': ({ state, now }, by) =>
    confirmRead(state, by, { version: state.inForce ?? state.latest, confirmed: now }, now),
  'confirm having read an earlier version': onVersion(({ state, now }, by, version) =>
    confirmRead(state, by, { version, confirmed: null }, now),
  ),
  'remind who has not read it': ({ state, now }, by) =>
    remindReaders(state, by, { outstanding: ['reader'] }, now),
  'remind nobody': ({ state, now }, by) => remindReaders(state, by, { outstanding: [] }, now),
  'hand over to an approver': ({ state, now }, by) =>
    handOver(
      state,
      { from: by, to: approver2, ownApproverIds: [by.id], asideBases: [], by: 'The office' },
      now,
    ),
  'hand over to a third approver': onVersion(({ state, now }, by, base) =>
    handOver(
      state,
      {
        from: by,
        to: actor('third', 'approver', 'author'),
        ownApproverIds: [by.id, 'x'],
        asideBases: [base],
        by: 'The office',
      },
      now,
    ),
  ),
  'hand over to a reader': onVersion(({ state, now }, by, base) =>
    handOver(
      state,
      {
        from: by,
        to: actor('reader', 'reader'),
        ownApproverIds: [by.id],
        asideBases: [base],
        by: 'The office',
      },
      now,
    ),
  ),
  'hand over to no member': ({ state, now }, by) =>
    handOver(
      state,
      { from: by, to: actor('nobody'), ownApproverIds: [], asideBases: [], by: 'The office' },
      now,
    ),
};
