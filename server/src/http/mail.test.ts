import type * as contract from '@polychron/contract';
import { extract } from 'letterparser';
import { SMTPServer } from 'smtp-server';
import { sendMail } from '../acts/sendMail.ts';
import { transportTo } from '../standins/mail.ts';
import { messagesOf } from '../testing/messages.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const { get, post, code, outbox, choose, compose, newest, raw, waiting } = messagesOf(server);

describe('messages', () => {
  test('are made of notices at once, and read by a parser of somebody else (RFC 5322)', async () => {
    const { id, number } = await waiting(
      'Räumung – Talstation „Süd“ mit einem sehr langen Titel, der mehr als eine Zeile füllt',
    );
    const { id: messageId, replyTo } = await newest('approver');
    const source = await raw('approver', messageId);
    const parsed = extract(source);
    expect(parsed.subject).toBe(`${number} 0.1, submitted by A. author, waits for your decision`);
    expect(parsed.from).toEqual({
      address: 'polychron@test.example',
      name: 'Polychron',
      raw: expect.anything() as string,
    });
    expect(parsed.to).toMatchObject([{ address: 'approver@test.example', name: 'A. approver' }]);
    expect(parsed.date?.getTime()).toBe(Math.floor(server.now.getTime() / 1000) * 1000);
    expect(parsed.text).toContain('Räumung – Talstation „Süd“ mit einem sehr langen Titel');
    expect(parsed.text).toContain(`https://polychron.test.example/`);
    expect(parsed.text).toMatch(new RegExp(`/documents/${id}\\r?\\n`));
    // Lines are no longer than 998 signs (2.1.1), headers are ASCII (2.2), a program wrote it (RFC 3834, 5).
    const [head = ''] = source.split('\r\n\r\n');
    expect(source.split('\r\n').every((line) => line.length <= 998 && !line.includes('\n'))).toBe(true);
    expect([...head].every((sign) => sign.charCodeAt(0) < 128)).toBe(true);
    expect(head).toContain('Auto-Submitted: auto-generated');
    expect(head).toContain(`Message-ID: <${messageId}@test.example>`);
    expect(replyTo).toMatch(/^answer\+[0-9a-f]{40}@test\.example$/);
    expect(head).toContain(replyTo ?? '');
  });

  test('lead to the place where one acts', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'text', { level: 'major' });
    await post('author', `/documents/${id}/distribution`, { people: ['reader'], groups: [] });
    const { text, answer, document } = await newest('reader');
    const { library: of } = document ?? { library: { code: '' } };
    expect(text).toContain(`https://polychron.test.example/${of.code}/documents/${id}/read`);
    expect(answer).toBeNull();
  });

  test('come together once a day, or not at all, as each person chose', async () => {
    await compose();
    await choose('approver2', 'daily');
    await choose('auditor', 'none');
    const library = await server.library();
    const ids: string[] = [];
    for (const title of ['One', 'Two']) {
      const { id } = await server.document(library, 'text', { level: 'major', title });
      await post('author', `/documents/${id}/distribution`, { people: ['approver2', 'auditor'], groups: [] });
      ids.push(id);
    }
    const before = (await outbox('approver2')).length;
    await compose();
    expect(await outbox('approver2')).toHaveLength(before);
    // The day's message is due at 05:00 UTC.
    server.now = new Date(`${server.now.toISOString().slice(0, 10)}T04:59:00Z`);
    server.pass(24);
    await compose();
    expect(await outbox('approver2')).toHaveLength(before);
    server.pass(1 / 30);
    // Told after that hour: it waits for the next.
    const late = await server.document(library, 'text', { level: 'major', title: 'Late' });
    await post('author', `/documents/${late.id}/distribution`, { people: ['approver2'], groups: [] });
    const digest = await newest('approver2');
    expect(digest).toMatchObject({ kind: 'digest', document: null, answer: null });
    expect(digest.subject).toMatch(/^2 notices of \d+ \w{3} \d{4}$/);
    for (const id of ids) expect(digest.text).toContain(`/documents/${id}/read`);
    expect(digest.text).not.toContain(late.id);
    expect(await outbox('auditor')).toEqual([]);
    // In the app both stand at once.
    const { notices } = (await get('auditor', '/desk')).body as contract.Desk;
    expect(notices.filter(({ kind }) => kind === 'toRead')).toHaveLength(2);
    await choose('approver2', 'atOnce');
    await choose('auditor', 'atOnce');
    await compose();
    expect(await outbox('auditor')).toEqual([]);
  });

  test('go to the address one gave; what is no address is refused', async () => {
    const agent = await server.as('author2');
    const put = (body: object) => agent.put('/api/v1/session/notices').send(body);
    expect((await agent.get('/api/v1/session/notices')).body).toEqual({
      mail: 'atOnce',
      address: null,
      sentTo: 'author2@test.example',
    });
    expect((await put({ mail: 'atOnce', address: 'nobody' })).status).toBe(422);
    expect((await put({ mail: 'hourly' })).status).toBe(422);
    await put({ mail: 'atOnce', address: 'two@mail.example' }).expect(200);
    expect((await put({ mail: 'daily' })).body).toMatchObject({ sentTo: 'two@mail.example' });
    expect((await put({ mail: 'atOnce', address: null })).body).toMatchObject({
      sentTo: 'author2@test.example',
    });
  });

  test('are one’s own: an administrator is told where they went, nobody what they say', async () => {
    const { id, number } = await waiting('Names of casualties');
    const { id: messageId } = await newest('approver');
    for (const account of ['approver2', 'controller', 'admin']) {
      expect((await get(account, `/outbox/${messageId}`)).status).toBe(404);
    }
    expect((await get('approver2', '/outbox')).text).not.toContain(number);
    expect(code(await get('controller', '/outbox?to=approver'))).toBe('not-administrator');
    const all = ((await get('admin', '/outbox?to=approver&limit=1')).body as contract.OutboxList).items;
    expect(all).toMatchObject([
      {
        to: { account: 'approver' },
        address: 'approver@test.example',
        subject: null,
        document: null,
        answer: null,
      },
    ]);
    // Who loses sight of a document loses what was said of it.
    await post('author', `/documents/${id}/call-back`, { comment: '' });
    const limit = { limit: { people: ['reader'], groups: [] }, reason: 'Names' };
    await (await server.as('controller')).put(`/api/v1/documents/${id}/limits`).send(limit).expect(200);
    expect((await get('approver', `/outbox/${messageId}`)).status).toBe(404);
    expect((await get('approver', '/outbox?limit=200')).text).not.toContain(number);
  });

  test('speak of a version’s title only to who sees that version', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'text', { level: 'major', title: 'Rescue' });
    const fields = { fields: { title: 'Names of casualties' }, level: 'minor', comment: 'Named' };
    await (await server.as('author')).patch(`/api/v1/documents/${id}`).send(fields).expect(200);
    await server.rules(library, { approval: { on: true, approvers: ['approver'] } });
    await post('author', `/documents/${id}/submit`, { comment: '' });
    const asked = await newest('approver');
    expect(asked.text).toContain('Names of casualties');
    await post('author', `/documents/${id}/call-back`, { comment: '' });
    expect((await get('approver', `/outbox/${asked.id}`)).status).toBe(200);
    await server.rules(library, { sight: { draft: [] } });
    expect((await get('approver', `/documents/${id}`)).status).toBe(200);
    expect((await get('approver', `/outbox/${asked.id}`)).status).toBe(404);
    expect((await get('approver', '/outbox?limit=200')).text).not.toContain(asked.id);
  });

  test('are not made for whom the document is gone before', async () => {
    const { id } = await waiting();
    await post('author', `/documents/${id}/call-back`, { comment: '' });
    const limit = { limit: { people: ['reader'], groups: [] }, reason: 'Names' };
    await (await server.as('controller')).put(`/api/v1/documents/${id}/limits`).send(limit).expect(200);
    const before = (await outbox('approver')).length;
    await compose();
    expect(await outbox('approver')).toHaveLength(before);
  });

  test('are not made for whose account was closed before', async () => {
    await waiting();
    await compose();
    const before = (await outbox('approver')).length;
    await waiting();
    const { id } = await server.caller('approver');
    const { Person } = server.context.models;
    await Person.update({ closedAt: server.now }, { where: { id } });
    await compose();
    await Person.update({ closedAt: null }, { where: { id } });
    expect(await outbox('approver')).toHaveLength(before);
    // Nor afterwards, when it is open again.
    await compose();
    expect(await outbox('approver')).toHaveLength(before);
  });

  test('come page by page', async () => {
    const whole = await outbox('approver');
    const ids: string[] = [];
    for (let cursor = ''; ;) {
      const { items, next, total } = (await get('approver', `/outbox?limit=1${cursor}`))
        .body as contract.OutboxList;
      ids.push(...items.map(({ id }) => id));
      expect(total).toBeGreaterThanOrEqual(whole.length);
      if (next === null) break;
      cursor = `&cursor=${next}`;
    }
    expect(ids).toEqual(whole.map(({ id }) => id));
  });
});

describe('by SMTP', () => {
  /** A mail server that takes what comes, or says otherwise. */
  async function mailServer(says: (to: string) => Error | null = () => null) {
    const taken: { from: string; to: string[]; data: string }[] = [];
    const smtp = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS'],
      onRcptTo: ({ address }, _session, done) => done(says(address)),
      onData(stream, { envelope: { mailFrom, rcptTo } }, done) {
        const parts: Buffer[] = [];
        stream.on('data', (part: Buffer) => parts.push(part));
        stream.on('end', () => {
          const from = mailFrom ? mailFrom.address : '';
          taken.push({
            from,
            to: rcptTo.map(({ address }) => address),
            data: Buffer.concat(parts).toString('latin1'),
          });
          done();
        });
      },
    });
    await new Promise<void>((resolve) => smtp.listen(0, '127.0.0.1', resolve));
    const { port } = smtp.server.address() as { port: number };
    return { taken, port, close: () => new Promise<void>((resolve) => smtp.close(() => resolve())) };
  }
  afterEach(() => {
    server.context.mail.transport = null;
  });
  const send = async (): Promise<number> => {
    await compose();
    return sendMail(server.context);
  };

  test('messages leave as they are kept, each once', async () => {
    const smtp = await mailServer();
    await compose();
    server.context.mail.transport = transportTo(`smtp://127.0.0.1:${smtp.port}`);
    await waiting();
    expect(await send()).toBe(1);
    expect(await send()).toBe(0);
    const [item] = await outbox('approver');
    expect(item).toMatchObject({ sentAt: server.now.toISOString(), problem: null });
    expect(smtp.taken).toMatchObject([{ from: 'polychron@test.example', to: ['approver@test.example'] }]);
    expect(smtp.taken[0]?.data.trimEnd()).toBe((await raw('approver', item?.id ?? '')).trimEnd());
    await smtp.close();
  });

  test('what is put off is tried again later, what is refused for good stays with what was said', async () => {
    let reply = Object.assign(new Error('Try again'), { responseCode: 451 });
    const smtp = await mailServer(() => reply);
    server.context.mail.transport = transportTo(`smtp://127.0.0.1:${smtp.port}`);
    await waiting();
    expect(await send()).toBe(0);
    const [first] = await outbox('approver');
    expect(first).toMatchObject({ sentAt: null, problem: expect.stringContaining('Try again') as string });
    expect(await send()).toBe(0);
    server.pass(1 / 30);
    reply = Object.assign(new Error('No such mailbox'), { responseCode: 550 });
    expect(await send()).toBe(0);
    server.pass(1000);
    reply = null as unknown as typeof reply;
    expect(await send()).toBe(0);
    expect((await outbox('approver'))[0]).toMatchObject({
      sentAt: null,
      problem: expect.stringContaining('No such mailbox') as string,
    });
    await smtp.close();
  });

  test('where no mail server answers nothing is lost', async () => {
    const smtp = await mailServer();
    await smtp.close();
    server.context.mail.transport = transportTo(`smtp://127.0.0.1:${smtp.port}`);
    await waiting();
    expect(await send()).toBe(0);
    const [item] = await outbox('approver');
    expect(item?.problem).toMatch(/ECONNREFUSED|connect/);
    const back = await mailServer();
    server.context.mail.transport = transportTo(`smtp://127.0.0.1:${back.port}`);
    server.pass(1 / 30);
    expect(await send()).toBe(1);
    expect((await outbox('approver'))[0]).toMatchObject({ problem: null, sentAt: server.now.toISOString() });
    await back.close();
  });
});
