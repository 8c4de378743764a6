import type * as contract from '@polychron/contract';
import { extract } from 'letterparser';
import { SMTPServer } from 'smtp-server';
import type { Response } from 'supertest';
import { composeMail } from '../acts/composeMail.ts';
import { sendMail } from '../acts/sendMail.ts';
import { transportTo } from '../standins/mail.ts';
import { rows } from '../store/database.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const get = async (account: string, path: string): Promise<Response> =>
  (await server.as(account)).get(`/api/v1${path}`);
const post = async (account: string, path: string, body: object): Promise<Response> =>
  (await server.as(account)).post(`/api/v1${path}`).send(body);
const code = ({ body }: Response): string => (body as contract.Problem).code;
const outbox = async (account: string): Promise<contract.OutboxList['items']> =>
  ((await get(account, '/outbox?limit=200')).body as contract.OutboxList).items;
const choose = async (account: string, mail: string): Promise<void> => {
  await (await server.as(account)).put('/api/v1/session/notices').send({ mail }).expect(200);
};
/** Everything that is to be mailed by now is made. */
const compose = async (): Promise<void> => {
  while ((await composeMail(server.context)) > 0);
};
/** The newest message to somebody. */
async function newest(account: string): Promise<contract.OutboxMessage> {
  await compose();
  const [item] = await outbox(account);
  return (await get(account, `/outbox/${item?.id}`)).body as contract.OutboxMessage;
}
const raw = async (account: string, id: string): Promise<string> =>
  (
    (await (
      await server.as(account)
    )
      .get(`/api/v1/outbox/${id}`)
      .set('Accept', 'message/rfc822')
      .responseType('blob')
      .expect(200)) as { body: Buffer }
  ).body.toString('latin1');

const inTurn = { approval: { on: true, mode: 'serial' as const, approvers: ['approver', 'approver2'] } };
/** A document whose first draft waits for the approver, then for the second. */
async function waiting(title = 'Rescue from a cabin'): Promise<contract.Document> {
  const library = await server.library(inTurn);
  const document = await server.document(library, 'text', { title });
  server.pass(1);
  expect((await post('author', `/documents/${document.id}/submit`, { comment: 'Please' })).status).toBe(200);
  return document;
}
const latest = async (id: string): Promise<contract.Version> =>
  ((await get('controller', `/documents/${id}`)).body as contract.Document).latest;

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

describe('a decision by answering', () => {
  const answer = async (account: string, message: string, text: string): Promise<Response> =>
    post(account, `/outbox/${message}/reply`, { text });
  /** Mail as it arrives from outside. */
  const incoming = (message: string) =>
    // Nobody is signed in: the secret is what one comes by.
    import('supertest').then(({ default: request }) =>
      request(server.listener).post('/api/v1/mail').set('Content-Type', 'message/rfc822').send(message),
    );
  const mailTo = (address: string | null, text: string): string =>
    [
      'From: L. Achterberg <someone@elsewhere.example>',
      `To: ${address ?? ''}`,
      'Subject: Re: it waits',
      'Message-ID: <one@elsewhere.example>',
      'MIME-Version: 1.0',
      'Content-Type: multipart/alternative; boundary="part"',
      '',
      '--part',
      'Content-Type: text/plain; charset=utf-8',
      'Content-Transfer-Encoding: quoted-printable',
      '',
      text.replaceAll('=', '=3D').replaceAll('ä', '=C3=A4'),
      '--part',
      'Content-Type: text/html; charset=utf-8',
      '',
      '<p>approve</p>',
      '--part--',
      '',
    ].join('\r\n');

  test('approves in one’s turn, once; the next is asked, and answers too', async () => {
    const { id, number } = await waiting();
    const first = await newest('approver');
    expect((await answer('approver', first.id, 'approve\n\n> it waits')).body).toEqual({
      said: `You approved ${number} 0.1. A. approver2 decides next.`,
    });
    expect(await latest(id)).toMatchObject({ label: '0.1', state: 'inApproval' });
    const again = await answer('approver', first.id, 'reject: no');
    expect([again.status, code(again)]).toEqual([409, 'answer-used']);
    const second = await newest('approver2');
    expect((await answer('approver2', second.id, 'Approve: fits')).body).toEqual({
      said: `You approved ${number} 0.1. 1.0 is in force.`,
    });
    const approval = (await latest(id)).approval;
    expect(approval?.posts).toMatchObject([
      { account: 'approver', decision: 'approve' },
      { account: 'approver2', decision: 'approve', comment: 'fits' },
    ]);
    expect((await get('approver', `/outbox/${first.id}`)).body).toMatchObject({ answer: 'used' });
  });

  test.each([
    ['It can be published.', { publishing: 'byOwner' as const }, null],
    ['1.0 comes into force at 1 Jan 2027 00:00 UTC.', {}, '2027-01-01T00:00:00.000Z'],
  ])('says what it came to: %s', async (came, more, inForceFrom) => {
    const library = await server.library({ approval: { on: true, approvers: ['approver'], ...more } });
    const { id, number } = await server.document(library, 'text');
    await post('author', `/documents/${id}/submit`, { comment: '', ...(inForceFrom ? { inForceFrom } : {}) });
    const { id: message } = await newest('approver');
    expect((await answer('approver', message, 'approve')).body).toEqual({
      said: `You approved ${number} 0.1. ${came}`,
    });
  });

  test('rejects with the words behind it; without words nothing is changed, and it can be answered again', async () => {
    const { id } = await waiting();
    const { id: message } = await newest('approver');
    expect(code(await answer('approver', message, 'reject'))).toBe('comment-missing');
    expect(code(await answer('approver', message, 'I am not sure'))).toBe('answer-unclear');
    expect((await answer('approver', message, 'later, on tower 7')).status).toBe(200);
    expect(await latest(id)).toMatchObject({ state: 'inApproval' });
    expect((await answer('approver', message, 'reject: span table incomplete')).status).toBe(200);
    expect(await latest(id)).toMatchObject({
      state: 'rejected',
      approval: { posts: [{ comment: 'span table incomplete' }, {}] },
    });
  });

  test('a second answer after a rejection is told that it was used, also where the version is out of sight', async () => {
    const { id } = await waiting();
    const { id: message, replyTo } = await newest('approver');
    expect((await answer('approver', message, 'reject: incomplete')).status).toBe(200);
    // Whoever is no member any more sees nothing of the document.
    await server.context.db.query(`DELETE FROM members WHERE person_id = :person`, {
      replacements: { person: (await server.caller('approver')).id },
    });
    expect((await get('approver', `/documents/${id}`)).status).toBe(404);
    expect(code(await answer('approver', message, 'approve'))).toBe('answer-used');
    const again = await incoming(mailTo(replyTo, 'approve'));
    expect([again.status, code(again)]).toEqual([409, 'answer-used']);
    const { items } = (await get('approver', '/outbox')).body as {
      items: { subject: string; document: unknown }[];
    };
    expect(items[0]).toMatchObject({
      subject: expect.stringContaining('Your answer changed nothing'),
      document: null,
    });
  });

  test('what a program wrote decides nothing and is not answered (RFC 3834)', async () => {
    const { id } = await waiting();
    const { replyTo } = await newest('approver');
    const count = async (): Promise<number> =>
      ((await get('approver', '/outbox')).body as { total: number }).total;
    const before = await count();
    const mail = mailTo(replyTo, 'Approved leave: I am out of office');
    const automatic = await incoming(`Auto-Submitted: auto-replied\r\n${mail}`);
    expect([automatic.status, code(automatic)]).toEqual([422, 'answer-automatic']);
    expect(await count()).toBe(before);
    const bounced = await incoming(`Return-Path: <>\r\n${mailTo(replyTo, 'approve')}`);
    expect(code(bounced)).toBe('answer-automatic');
    // Not marked as one, it is told how to answer.
    expect(code(await incoming(mail))).toBe('answer-unclear');
    expect(await count()).toBe(before + 1);
    expect(await latest(id)).toMatchObject({ state: 'inApproval' });
  });

  test('comes too late once it was taken back, decided or asked of another; and is nobody else’s', async () => {
    const { id } = await waiting();
    const { id: message } = await newest('approver');
    expect((await answer('approver2', message, 'approve')).status).toBe(404);
    await post('author', `/documents/${id}/call-back`, { comment: '' });
    const late = await answer('approver', message, 'approve');
    expect([late.status, code(late)]).toEqual([409, 'answer-late']);
    // Submitted again it is another run: the earlier address is for the first.
    server.pass(1);
    await post('author', `/documents/${id}/submit`, { comment: 'Again' });
    expect(code(await answer('approver', message, 'approve'))).toBe('answer-late');
    const replaced = await newest('approver');
    const other = { from: 'approver', to: 'controller', reason: 'Away' };
    await (
      await server.as('controller')
    )
      .put(`/api/v1/documents/${id}/approval/approvers`)
      .send(other)
      .expect(200);
    expect((await answer('approver', replaced.id, 'approve')).status).toBe(403);
    expect(await latest(id)).toMatchObject({ state: 'inApproval' });
    const put = await newest('controller');
    expect(put.text).toContain('put you in the place of A. approver');
    expect((await answer('controller', put.id, 'approve')).status).toBe(200);
  });

  test('arrives as mail: the address says whose decision it is; what came of it is told by mail', async () => {
    const { id, number } = await waiting();
    const { replyTo, id: asked } = await newest('approver');
    const taken = await incoming(mailTo(replyTo, 'approve: für den Winter geprüft, 1=1 ä'));
    expect([taken.status, taken.body]).toEqual([
      200,
      { said: `You approved ${number} 0.1. A. approver2 decides next.` },
    ]);
    const [told] = await outbox('approver');
    expect(told).toMatchObject({ kind: 'answer', subject: `You approved ${number} 0.1`, document: { id } });
    const headers = (await raw('approver', told?.id ?? '')).split('\r\n\r\n')[0];
    expect(headers).toContain('In-Reply-To: <one@elsewhere.example>');
    const used = await incoming(mailTo(replyTo, 'approve'));
    expect([used.status, code(used)]).toEqual([409, 'answer-used']);
    expect((await outbox('approver'))[0]?.subject).toBe('Your answer changed nothing');
    expect((await get('approver', `/outbox/${asked}`)).body).toMatchObject({ answer: 'used' });
  });

  test('by an address that was never given is answered by nothing', async () => {
    await compose();
    const before = await rows<{ count: number }>(
      server.context.db,
      'SELECT COUNT(*) AS count FROM outbox',
      {},
    );
    for (const address of [
      `answer+${'0'.repeat(40)}@test.example`,
      'polychron@test.example',
      'answer+x@test.example',
      null,
    ]) {
      const answered = await incoming(mailTo(address, 'approve'));
      expect([address, answered.status, code(answered)]).toEqual([address, 404, 'answer-unknown']);
    }
    expect((await incoming('no mail at all')).status).toBe(404);
    const after = await rows<{ count: number }>(
      server.context.db,
      'SELECT COUNT(*) AS count FROM outbox',
      {},
    );
    expect(after).toEqual(before);
  });

  test('the database knows no secret but in the message itself', async () => {
    await waiting();
    const { replyTo } = await newest('approver');
    const secret = /\+([0-9a-f]+)@/.exec(replyTo ?? '')?.[1] ?? 'none';
    const kept = await rows(server.context.db, 'SELECT * FROM answer_secrets', {});
    expect(JSON.stringify(kept)).not.toContain(secret);
  });

  test('given five times at once decides once', async () => {
    const { id } = await waiting();
    const { id: message } = await newest('approver');
    const answers = await Promise.all(
      Array.from({ length: 5 }, () => answer('approver', message, 'approve')),
    );
    expect(answers.filter(({ status }) => status === 200)).toHaveLength(1);
    expect(await latest(id)).toMatchObject({ state: 'inApproval' });
  });

  test('a secret that is almost known is none: all that is near it is answered alike', async () => {
    const { id } = await waiting();
    const { replyTo } = (await get('approver', `/outbox/${(await newest('approver')).id}`)).body as {
      replyTo: string;
    };
    const address = replyTo;
    const secret = /\+([0-9a-f]{40})@/.exec(address)?.[1] ?? '';
    expect(secret).toHaveLength(40);
    const near = [
      ...Array.from(
        secret,
        (sign, at) => secret.slice(0, at) + (sign === '0' ? '1' : '0') + secret.slice(at + 1),
      ),
      ...['', '%', '_'.repeat(40), `${secret.slice(0, 39)}%`, secret.slice(0, 39), "x' OR '1'='1"],
    ];
    const said = new Set<string>();
    for (const guess of near) {
      const { status, body } = await incoming(mailTo(address.replace(secret, guess), 'approve'));
      said.add(`${status} ${JSON.stringify(body)}`);
    }
    expect([...said]).toEqual([expect.stringMatching(/^404 .*answer-unknown/)]);
    expect(await latest(id)).toMatchObject({ state: 'inApproval' });
    expect((await incoming(mailTo(address, 'approve'))).status).toBe(200);
  });

  test('a stranger’s message is read no further than its head, nothing of it is written, and many are refused', async () => {
    const stranger = mailTo('answer+0123456789012345678901234567890123456789@test.example', 'approve');
    const kept = (): Promise<object[]> =>
      rows(server.context.db, 'SELECT COUNT(*) AS count FROM contents', {});
    const before = await kept();
    const large = await incoming(stranger + 'x'.repeat(2 << 20));
    expect([large.status, code(large)]).toEqual([413, 'file-too-large']);
    // A form, or a part that is a document to be read, is no message.
    const form = await (
      await import('supertest')
    )
      .default(server.listener)
      .post('/api/v1/mail')
      .attach('file', Buffer.from('words'), 'answer.docx');
    expect([form.status, code(form)]).toEqual([404, 'answer-unknown']);
    expect(await kept()).toEqual(before);
    const answers = [];
    for (let time = 0; time < 130; time += 1) answers.push(code(await incoming(stranger)));
    expect(answers[0]).toBe('answer-unknown');
    expect(answers.at(-1)).toBe('too-much-mail');
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
