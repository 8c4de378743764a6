import { type Route, routes } from '@polychron/contract';
import type { RulebookChoices } from '@polychron/core';
import { docxOf } from './files.ts';
import { approval, bodyOf, type Case, type Cases, documentStands, submit } from './races.ts';
import type { TestServer } from './server.ts';

interface About {
  rulebook?: RulebookChoices;
  level?: 'minor' | 'major';
  account?: string;
  /** What is done to it before; the version that the address names. */
  before?: (id: string) => Promise<void>;
  v?: string;
  body?: object;
}
const reason = 'Because';
/** Answers to whatever is asked at a check-in. */
const confirm = 'same-bytes,other-name,other-type,stale-base';

/** What is asked of documents. */
export function documentRaces(server: TestServer): Cases {
  const as = (account: string) => server.as(account);
  const post = async (account: string, path: string, body: object = {}): Promise<void> => {
    await bodyOf((await as(account)).post(`/api/v1${path}`).send(body));
  };
  /** An act on a document, made for it. */
  const about =
    (
      name: keyof typeof routes,
      { rulebook, level, account = 'author', before, v = '1.0', body = {} }: About,
    ): Case =>
    async () => {
      const library = await server.library({ custody: 'optional', ...rulebook });
      const { id } = await server.document(library, 'first\nsecond', { level: level ?? 'major' });
      await before?.(id);
      const { path } = routes[name] as Route;
      return {
        account,
        path: path.replace('{id}', id).replace('{v}', v).replace('{position}', '1'),
        body,
        stands: () => documentStands(server, id),
      };
    };
  const held = async (id: string): Promise<void> => post('author', `/documents/${id}/checkout`);
  const saved = async (id: string): Promise<void> => {
    await held(id);
    for (const text of ['one', 'two']) {
      const save = (await as('author')).put(`/api/v1/documents/${id}/checkout/content?sitting=${text}`);
      await bodyOf(save.set('Content-Type', 'application/octet-stream').send(docxOf(text)));
    }
  };
  const changed = async (id: string): Promise<void> => {
    await server.change(id, 'first\nthird');
  };
  const scheduled = async (id: string): Promise<void> => {
    await changed(id);
    await post('author', `/documents/${id}/publish`, { inForceFrom: '2027-01-01T00:00:00Z' });
  };
  const submitted = (id: string): Promise<void> => submit(server, id);
  async function done(account: string, name: keyof typeof routes, id: string, body: object): Promise<void> {
    const { method, path } = routes[name] as Route;
    const address = path.replace('{id}', id).replace('{v}', '1.0');
    await bodyOf((await as(account))[method](`/api/v1${address}`).send(body));
  }
  return {
    changeDocument: about('changeDocument', {
      body: { fields: { title: 'Other' }, comment: 'c', level: 'minor' },
    }),
    checkOut: about('checkOut', {}),
    prolong: about('prolong', { before: held, body: { until: '2026-09-01T00:00:00Z' } }),
    giveBack: about('giveBack', { before: saved }),
    keepForLater: about('keepForLater', { before: saved }),
    takeBackLock: about('takeBackLock', { before: saved }),
    saveWorkingCopy: about('saveWorkingCopy', { before: held }),
    goBackToSave: about('goBackToSave', { before: saved }),
    lift: about('lift', { before: saved, account: 'controller', body: { reason } }),
    checkIn: about('checkIn', { before: held, body: { comment: 'c', level: 'minor', confirm } }),
    restore: about('restore', { before: changed, body: { from: '1.0', level: 'minor', comment: 'c' } }),
    publish: about('publish', { before: changed }),
    uploadVersion: about('uploadVersion', {
      body: { basedOn: '1.0', comment: 'c', level: 'minor', confirm },
    }),
    submit: about('submit', { rulebook: approval, level: 'minor', body: {} }),
    callBack: about('callBack', {
      rulebook: approval,
      level: 'minor',
      before: submitted,
      body: { comment: 'c' },
    }),
    decide: about('decide', {
      rulebook: approval,
      level: 'minor',
      before: submitted,
      account: 'approver',
      body: { version: '0.2', decision: 'approve' },
    }),
    replaceApprover: about('replaceApprover', {
      rulebook: approval,
      level: 'minor',
      before: submitted,
      account: 'controller',
      body: { from: 'approver', to: 'approver2', reason },
    }),
    markTemplate: about('markTemplate', { account: 'controller', body: { type: 'Plan' } }),
    setLimit: about('setLimit', {
      account: 'controller',
      body: { limit: { people: ['author2'], groups: [] }, reason },
    }),
    distribute: about('distribute', { account: 'controller', body: { people: ['reader'], groups: [] } }),
    remindReaders: about('remindReaders', {
      account: 'controller',
      before: (id) => done('controller', 'distribute', id, { people: ['reader'], groups: [] }),
    }),
    confirmRead: about('confirmRead', {
      account: 'reader',
      before: (id) => done('controller', 'distribute', id, { people: ['reader'], groups: [] }),
    }),
    review: about('review', { account: 'controller', body: { outcome: 'confirmed', nextBy: '2099-01-01' } }),
    void: about('void', { account: 'controller', body: { reason } }),
    unvoid: about('unvoid', {
      account: 'controller',
      before: (id) => done('controller', 'void', id, { reason }),
      body: { reason },
    }),
    withdraw: about('withdraw', { account: 'controller', body: { version: '1.0', reason } }),
    reinstate: about('reinstate', {
      account: 'controller',
      before: (id) => post('controller', `/documents/${id}/withdraw`, { version: '1.0', reason }),
      body: { version: '1.0', reason },
    }),
    reschedule: about('reschedule', {
      account: 'controller',
      before: scheduled,
      v: '2.0',
      body: { inForceFrom: null },
    }),
    takeBack: about('takeBack', { account: 'controller', before: scheduled, v: '2.0', body: { reason } }),
    thinVersion: about('thinVersion', {
      account: 'controller',
      before: (id) => server.change(id, 'next', 'major').then(() => undefined),
      body: { reason },
    }),
    recoverVersion: about('recoverVersion', {
      account: 'controller',
      rulebook: { graceDays: 30 } as RulebookChoices,
      before: async (id) => {
        await server.change(id, 'next', 'major');
        await post('controller', `/documents/${id}/versions/1.0/thin`, { reason });
      },
      body: { reason },
    }),
    shelterVersion: about('shelterVersion', { account: 'controller', body: { reason } }),
    unshelterVersion: about('unshelterVersion', {
      account: 'controller',
      before: (id) => done('controller', 'shelterVersion', id, { reason }),
      body: { reason },
    }),
    takeLooseCopy: about('takeLooseCopy', {}),
  };
}
