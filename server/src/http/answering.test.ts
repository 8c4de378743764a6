import type * as contract from '@polychron/contract';
import type { Response } from 'supertest';
import { rows } from '../store/database.ts';
import { messagesOf } from '../testing/messages.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
const { get, post, code, outbox, compose, newest, raw, inTurn, waiting, latest } = messagesOf(server);

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

  test('what one rejected by answering stays readable, with one’s words and what came of it', async () => {
    const { id, number } = await waiting();
    const first = await newest('approver');
    const text = 'reject: step 2 is wrong';
    await answer('approver', first.id, text);
    // Rejected versions are not for approvers here: the document is gone for them.
    expect((await get('approver', `/documents/${id}`)).status).toBe(404);
    const kept = (await get('approver', `/outbox/${first.id}`)).body as contract.OutboxMessage;
    const answered = { text, said: `You rejected ${number} 0.1.`, at: server.now.toISOString() };
    expect(kept).toMatchObject({ answer: 'used', answered, text: first.text, document: null });
    expect((await outbox('approver')).find((one) => one.id === first.id)).toMatchObject({ answered });
  });

  test('the message that asks says what the submitter wrote and what changed, in short', async () => {
    await waiting();
    const first = await newest('approver');
    expect(first.text).toContain('A. author: “Please”');
    expect(first.text).toContain('Nothing of it is in force yet.');
    const library = await server.library(inTurn);
    await server.rules(library, { approval: { ...inTurn.approval, on: false } });
    const { id } = await server.document(library, 'Call the valley.', { level: 'major' });
    await server.rules(library, inTurn);
    await server.change(id, 'Call the top.');
    server.pass(1);
    await post('author', `/documents/${id}/submit`, { comment: 'Other station' });
    const { text } = await newest('approver');
    expect(text).toContain('A. author: “Other station”');
    expect(text).toMatch(/Against 1\.0, which is in force: 1 change\r?\n- changed: “valley” → “top”/);
  });

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
