import { isRefusal } from '../document/refusal.ts';
import type { RulebookChoices } from '../rules/rulebook.ts';
import { auditor, author2 } from '../testing/lives.ts';
import { actor, approver, approver2, author, begin, content, controller, reader } from '../testing/people.ts';
import { checkOut } from './checkOut.ts';
import { chargesOf, handOver, type HandOver } from './handOver.ts';
import type { History } from './history.ts';
import { saveWorkingCopy } from './save.ts';
import { submit } from './submit.ts';

const approver3 = actor('approver3', 'approver');
const given = (over: Partial<HandOver>): HandOver => ({
  from: author,
  to: author2,
  ownApproverIds: [],
  asideBases: [],
  by: 'The office',
  ...over,
});
const held = (): History => {
  const history = begin();
  history.do(checkOut(history.state, author, { reason: 'New span', until: null }, history.now));
  const save = { content: content('second'), sitting: null };
  history.do(saveWorkingCopy(history.state, author, save, history.now));
  return history;
};
const serial: RulebookChoices = { approval: { on: true, mode: 'serial' } };
const submitted = (rules = serial): History => {
  const history = begin(rules);
  const { latest } = history.state;
  history.do(submit(history.state, author, { version: latest, comment: '', inForceFrom: null }, history.now));
  return history;
};
const codeOf = (history: History, over: Partial<HandOver>): string => {
  const outcome = handOver(history.state, given(over), history.now);
  return isRefusal(outcome) ? outcome.code : 'accepted';
};

test('owner and holder change; base, saves and end of the check-out stay; the successor is told', () => {
  const history = held();
  const before = history.state.custody;
  const { now } = history;
  const outcome = handOver(history.state, given({}), now);
  history.do(outcome);
  expect(history.state).toMatchObject({
    ownerId: author2.id,
    ownerName: author2.name,
    custody: { ...before, holderId: author2.id, holderName: author2.name, since: now },
  });
  expect(outcome).toMatchObject({
    ledger: { act: 'handOver', facts: { from: author.name, to: author2.name, what: ['owns', 'holds'] } },
    notices: [{ kind: 'handedOver', personIds: [author2.id], facts: { by: 'The office' } }],
  });
  expect(codeOf(history, {})).toBe('nothing-to-hand-over');
});

test('an open decision is asked of the successor, in the same place; what others said stays', () => {
  const history = submitted();
  const place = history.state.approval?.posts.map(({ personId }) => personId);
  expect(place).toEqual([approver.id, approver2.id]);
  history.do(handOver(history.state, given({ from: approver, to: approver3 }), history.now));
  expect(history.state.approval?.posts.map(({ personId }) => personId)).toEqual([approver3.id, approver2.id]);
});

test('nobody takes what they could not do: two places of a run, deciding about their own, holding as a reader', () => {
  expect(codeOf(submitted(), { from: approver, to: approver2 })).toBe('successor-unfit');
  const both = actor(author.id, 'author', 'approver');
  expect(codeOf(submitted(), { from: approver, to: both })).toBe('successor-unfit');
  const mayApprove: RulebookChoices = { approval: { on: true, mode: 'serial', authorMayApprove: true } };
  expect(codeOf(submitted(mayApprove), { from: approver, to: both })).toBe('accepted');
  for (const to of [reader, auditor, approver]) expect(codeOf(held(), { to })).toBe('successor-unfit');
  expect(codeOf(held(), { to: controller })).toBe('accepted');
  expect(codeOf(begin(), { to: actor('stranger') })).toBe('successor-unfit');
  expect(codeOf(begin(), { to: reader })).toBe('accepted');
});

test('a copy set aside goes to whoever may hold and sees its base', () => {
  const history = begin({ sight: { draft: [], inApproval: [], rejected: [] } });
  const asideBases = [history.state.latest];
  const charges = chargesOf(history.state, given({ from: approver, asideBases }));
  expect(charges).toEqual(['setAside']);
  expect(codeOf(history, { from: approver, to: author2, asideBases })).toBe('successor-unfit');
  expect(codeOf(history, { from: approver, to: controller, asideBases })).toBe('accepted');
});

test('one is not named twice where the successor stands in the list already', () => {
  const history = begin();
  const command = given({ from: approver, to: approver2, ownApproverIds: [approver.id, approver2.id] });
  const outcome = handOver(history.state, command, history.now);
  expect(outcome).toMatchObject({
    changes: [{ kind: 'setPeople', owner: null, coAuthorIds: null, approvers: { own: [approver2.id] } }],
  });
  history.do(outcome);
  expect(history.state.approvers.map(({ id }) => id)).toEqual([approver2.id]);
});
