import { randomUUID } from 'node:crypto';
import { type Route, routes } from '@polychron/contract';
import request from 'supertest';
import { composeMail } from '../acts/composeMail.ts';
import { docxOf } from './files.ts';
import { approval, type Asked, bodyOf, type Cases, documentStands, submit, unique } from './races.ts';
import type { Agent, TestServer } from './server.ts';

const reason = 'Because';

/** What is asked of the site, of libraries, and of one's own. */
export function siteRaces(server: TestServer): Cases {
  const as = (account: string): Promise<Agent> => server.as(account);
  const group = async (name: string): Promise<{ id: string }> =>
    bodyOf((await as('admin')).post('/api/v1/groups').send({ name, people: ['author'] }));
  const groupsNamed = async (name: string): Promise<unknown> => {
    const { items } = await bodyOf<{ items: { name: string; people: { account: string }[] }[] }>(
      (await as('admin')).get(`/api/v1/groups?q=${name}`),
    );
    return items.filter((one) => one.name === name).map(({ people }) => people.map(({ account }) => account));
  };
  const peopleNamed = async (account: string): Promise<unknown> =>
    (await server.context.models.Person.findAll({ where: { account } })).map(
      ({ closedAt }) => closedAt !== null,
    );
  const libraryStands = async (id: string): Promise<unknown> => {
    const { models } = server.context;
    const members = await models.Member.findAll({ where: { libraryId: id }, order: ['role'] });
    const entries = await models.Ledger.findAll({ where: { libraryId: id }, order: ['id'] });
    return {
      members: members.map(({ role }) => role),
      rules: (await models.RulebookRevision.findAll({ where: { libraryId: id } })).length,
      documents: (await models.Document.findAll({ where: { libraryId: id } })).length,
      acts: entries.map(({ act }) => act).sort(),
    };
  };
  const tokensOf = async (account: string): Promise<number> => {
    const { id: personId } = await server.caller(account);
    return server.context.models.Token.count({ where: { personId } });
  };
  /** A browser in which somebody has signed in. */
  const signedIn = async (account: string): Promise<Agent> => {
    const asked = request(server.listener)
      .post('/api/v1/session')
      .send({ account, password: 'correct horse' });
    const cookie = String((await asked.expect(200)).headers['set-cookie']).split(';')[0] ?? '';
    return request.agent(server.listener).set('Cookie', cookie);
  };
  const sessionCase = async (name: string, pathOf: (id: string) => string): Promise<Asked> => {
    await server.password(name);
    const agent = await signedIn(name);
    await signedIn(name);
    const { id: personId } = await server.caller(name);
    const { models } = server.context;
    const [, other] = await models.Session.findAll({ where: { personId }, order: ['createdAt', 'id'] });
    const stands = (): Promise<number> => models.Session.count({ where: { personId } });
    return { account: name, path: pathOf(other?.id ?? ''), stands, agent };
  };
  const deskFile = async (): Promise<{ id: string }> =>
    bodyOf(
      (await as('author')).post('/api/v1/desk/files').attach('file', docxOf(`words ${unique()}`), 'op.docx'),
    );
  const deskFileStands = (id: string): Promise<number> =>
    server.context.models.DeskFile.count({ where: { id } });

  /** A document that waits for a decision, and the message that asks the approver for it. */
  const asked = async (): Promise<{ document: string; message: string; replyTo: string }> => {
    const library = await server.library({ custody: 'optional', ...approval });
    const { id: document } = await server.document(library, 'text');
    await submit(server, document);
    while ((await composeMail(server.context)) > 0);
    const approver = await as('approver');
    const { items } = await bodyOf<{ items: { id: string }[] }>(approver.get('/api/v1/outbox'));
    // Others of their reader's may be as new.
    for (const { id: message } of items) {
      const { replyTo, text } = await bodyOf<{ replyTo: string | null; text: string }>(
        approver.get(`/api/v1/outbox/${message}`),
      );
      if (replyTo && text.includes(document)) return { document, message, replyTo };
    }
    throw new Error(`no message asks about ${document}`);
  };
  return {
    addPerson: async (name) => ({
      account: 'admin',
      path: '/people',
      body: { account: name, name: 'N. New', password: 'a cable over the valley' },
      stands: () => peopleNamed(name),
    }),
    addGroup: async (name) => ({
      account: 'admin',
      path: '/groups',
      body: { name, people: ['author'] },
      stands: () => groupsNamed(name),
    }),
    changeGroup: async (name) => {
      const { id } = await group(name);
      const body = { name, people: ['reader', 'author2'] };
      return { account: 'admin', path: `/groups/${id}`, body, stands: () => groupsNamed(name) };
    },
    removeGroup: async (name) => {
      const { id } = await group(name);
      return { account: 'admin', path: `/groups/${id}`, stands: () => groupsNamed(name) };
    },
    createLibrary: async (name) => ({
      account: 'admin',
      path: '/libraries',
      body: { name, code: name.toUpperCase(), rulebook: {} },
      stands: async () => (await server.context.models.Library.findAll({ where: { name } })).length,
    }),
    changeLibrary: async (name) => {
      const id = await server.library();
      return {
        account: 'controller',
        path: `/libraries/${id}`,
        body: { name },
        stands: () => libraryStands(id),
      };
    },
    setMembers: async () => {
      const id = await server.library();
      const body = [
        { account: 'controller', roles: ['controller'] },
        { account: 'author2', roles: ['author', 'approver'] },
      ];
      return {
        account: 'controller',
        path: `/libraries/${id}/members`,
        body,
        stands: () => libraryStands(id),
      };
    },
    changeRulebook: async () => {
      const id = await server.library();
      const body = { numbering: 'whole', reason };
      return {
        account: 'controller',
        path: `/libraries/${id}/rulebook`,
        body,
        stands: () => libraryStands(id),
      };
    },
    consequences: async () => {
      const id = await server.library();
      const body = { numbering: 'whole' };
      const { path } = routes.consequences as Route;
      return { account: 'controller', path: path.replace('{id}', id), body, stands: () => libraryStands(id) };
    },
    createDocument: async () => {
      const id = await server.library();
      return {
        account: 'author',
        path: `/libraries/${id}/documents`,
        body: { fields: JSON.stringify({ title: 'T', number: 'ONE-1' }), comment: 'c', level: 'minor' },
        stands: () => libraryStands(id),
      };
    },
    changePerson: async (name) => {
      await server.caller(name);
      return {
        account: 'admin',
        path: `/people/${name}`,
        body: { closed: true },
        stands: () => peopleNamed(name),
      };
    },
    changePassword: async (name) => {
      await server.password(name);
      const agent = await signedIn(name);
      const body = { present: 'correct horse', next: 'battery staple and more' };
      const works = async (): Promise<number> =>
        (await request(server.listener).post('/api/v1/session').send({ account: name, password: body.next }))
          .status;
      return { account: name, path: '/session/password', body, stands: works, agent };
    },
    makeToken: async (name) => {
      await server.as(name);
      return { account: name, path: '/tokens', body: { name: 'x' }, stands: () => tokensOf(name) };
    },
    revokeToken: async (name) => {
      const { id } = await bodyOf<{ id: string }>(
        (await as(name)).post('/api/v1/tokens').send({ name: 'x' }),
      );
      return { account: name, path: `/tokens/${id}`, stands: () => tokensOf(name) };
    },
    revokeTokenOf: async (name) => {
      const { id } = await bodyOf<{ id: string }>(
        (await as(name)).post('/api/v1/tokens').send({ name: 'x' }),
      );
      return { account: 'admin', path: `/people/${name}/tokens/${id}`, stands: () => tokensOf(name) };
    },
    revokeTokensOf: async (name) => {
      await bodyOf((await as(name)).post('/api/v1/tokens').send({ name: 'x' }));
      const stands = (): Promise<number> => tokensOf(name);
      return { account: 'admin', path: `/people/${name}/tokens`, stands };
    },
    endSession: async (name) => ({ ...(await sessionCase(name, (id) => `/sessions/${id}`)) }),
    endOtherSessions: async (name) => ({ ...(await sessionCase(name, () => '/sessions')) }),
    endSessionOf: async (name) => ({
      ...(await sessionCase(name, (id) => `/people/${name}/sessions/${id}`)),
      account: 'admin',
      agent: await as('admin'),
    }),
    endSessionsOf: async (name) => ({
      ...(await sessionCase(name, () => `/people/${name}/sessions`)),
      account: 'admin',
      agent: await as('admin'),
    }),
    chooseMail: async (name) => {
      const agent = await as(name);
      const body = { mail: 'daily', address: 'someone@valley.example' };
      const stands = () => bodyOf(agent.get('/api/v1/session/notices'));
      return { account: name, path: '/session/notices', body, stands };
    },
    addDeskFile: async () => {
      const { DeskFile } = server.context.models;
      const before = await DeskFile.count();
      const stands = async (): Promise<number> => (await DeskFile.count()) - before;
      return { account: 'author', path: '/desk/files', body: {}, stands };
    },
    removeDeskFile: async () => {
      const { id } = await deskFile();
      return { account: 'author', path: `/desk/files/${id}`, stands: () => deskFileStands(id) };
    },
    saveDeskFile: async () => {
      const library = await server.library();
      const { id: document } = await server.document(library, 'text', { level: 'major' });
      const { id } = await bodyOf<{ id: string }>(
        (await as('author')).post(`/api/v1/documents/${document}/versions/1.0/loose-copy`).send({}),
      );
      return { account: 'author', path: `/desk/files/${id}/content`, stands: () => deskFileStands(id) };
    },
    registerDeskFile: async () => {
      const library = await server.library();
      const { id } = await deskFile();
      return {
        account: 'author',
        path: `/desk/files/${id}/register`,
        body: { library, fields: { title: 'T' }, comment: 'c', level: 'minor' },
        stands: async () => [await deskFileStands(id), await libraryStands(library)],
      };
    },
    bringIn: async () => {
      const library = await server.library({ custody: 'optional' });
      const { id: document } = await server.document(library, 'text', { level: 'major' });
      const { id } = await deskFile();
      return {
        account: 'author',
        path: `/desk/files/${id}/bring-in`,
        body: {
          document,
          level: 'minor',
          comment: 'c',
          confirm: ['other-name', 'other-type', 'stale-base'],
          choices: null,
        },
        stands: async () => [await deskFileStands(id), await documentStands(server, document)],
      };
    },
    saveFromDesk: async () => {
      const library = await server.library();
      const { id: document } = await server.document(library, 'text', { level: 'major' });
      await bodyOf((await as('author')).post(`/api/v1/documents/${document}/checkout`).send({}));
      const { id } = await deskFile();
      return {
        account: 'author',
        path: `/desk/files/${id}/save`,
        body: { document },
        stands: async () => [await deskFileStands(id), await documentStands(server, document)],
      };
    },
    bulk: async () => {
      const library = await server.library();
      const { id } = await server.document(library, 'text', { level: 'major' });
      const body = { act: 'checkOut', documents: [id] };
      return { account: 'author', path: '/bulk', body, stands: () => documentStands(server, id) };
    },
    answerMessage: async () => {
      const { document, message } = await asked();
      const path = `/outbox/${message}/reply`;
      return {
        account: 'approver',
        path,
        body: { text: 'approve' },
        stands: () => documentStands(server, document),
      };
    },
    incomingMail: async () => {
      const { document, replyTo } = await asked();
      const body = Buffer.from(`To: ${replyTo}\r\nContent-Type: text/plain\r\n\r\nreject: incomplete\r\n`);
      return { account: 'approver', path: '/mail', body, stands: () => documentStands(server, document) };
    },
    readNotices: async (name) => {
      const agent = await as(name);
      const stands = () => bodyOf(agent.get('/api/v1/notices'));
      return { account: name, path: '/notices/read', body: { upTo: '1' }, stands, agent };
    },
    lookedAtInForce: async (name) => ({
      account: name,
      agent: await as(name),
      path: '/in-force/looked',
      body: { at: '2026-01-01T00:00:00Z' },
      stands: async () => null,
    }),
    mapProvider: async () => ({
      account: 'admin',
      path: '/provider',
      body: { makeAccounts: true },
      stands: async () => bodyOf((await as('admin')).get('/api/v1/provider')),
    }),
    confirmTime: async () => ({ account: 'admin', path: '/clock/confirm', stands: async () => null }),
    cancelJob: async () => ({ account: 'admin', path: `/jobs/${randomUUID()}`, stands: async () => null }),
    signIn: async (name) => {
      await server.password(name);
      const { id: personId } = await server.caller(name);
      return {
        account: name,
        path: '/session',
        body: { account: name, password: 'correct horse' },
        stands: () => server.context.models.Session.count({ where: { personId } }),
      };
    },
    signOut: (name) => sessionCase(name, () => '/session'),
  };
}
