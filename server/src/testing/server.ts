import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Express } from 'express';
import pino from 'pino';
import request from 'supertest';
import { commonRefusals, type Document, refusals, type Version } from '@polychron/contract';
import type { Role, RulebookChoices } from '@polychron/core';
import type { Asker, Caller } from '../access/caller.ts';
import { hashPassword } from '../access/passwords.ts';
import { makeToken } from '../access/sessions.ts';
import { performCreateLibrary } from '../acts/libraries.ts';
import { addPerson } from '../acts/people.ts';
import { performSetMembers } from '../acts/setMembers.ts';
import { closeContext, makeContext } from '../compose.ts';
import { Room } from '../content/room.ts';
import type { Context } from '../context.ts';
import { createApp } from '../http/app.ts';
import { runJobs } from '../jobs/sweeps.ts';
import { confirmTime, noteTime } from '../store/clock.ts';
import { connect, type Database, transact } from '../store/database.ts';
import { setPasswordHash } from '../store/people.ts';
import { docxOf } from './files.ts';
import { takeShape } from './shape.ts';

export type Agent = ReturnType<typeof request.agent>;

const isDeclared = (operation: string, code: string): boolean =>
  commonRefusals.includes(code) || (refusals[operation as keyof typeof refusals] ?? []).includes(code);

/** A server on a database of its own, with a clock that tests set. */
export class TestServer {
  now = new Date('2026-03-02T09:00:00Z');
  /** Bytes free on its disk, as it sees them. */
  free = Infinity;
  readonly logged: string[] = [];
  /** Refusals that the contract does not name with the operation. */
  readonly undeclared = new Set<string>();
  private readonly callers = new Map<string, Caller>();
  private readonly agents = new Map<string, Agent>();

  private constructor(
    readonly context: Context,
    readonly app: Express,
    /** It listens throughout: to begin anew for every request takes longer than most requests do. */
    readonly listener: Server,
    private readonly admin: Database,
    private readonly name: string,
  ) {}

  /** @param options.connections how many it has to its database */
  static async start({ connections }: { connections?: number | undefined } = {}): Promise<TestServer> {
    const url = process.env['POLYCHRON_DATABASE_URL'];
    if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set; run the tests with "npm test".');
    const name = `test_${randomBytes(6).toString('hex')}`;
    const admin = connect(url);
    await admin.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4`);
    const own = new URL(url);
    own.pathname = `/${name}`;
    // Set once the object is made; the log and the clock look at it only while requests run.
    const late: { server: TestServer | null } = { server: null };
    const log = pino({ level: 'error' }, { write: (line: string) => late.server?.logged.push(line) });
    const stagingFolder = mkdtempSync(join(tmpdir(), 'staging-'));
    const room = new Room([stagingFolder], async () => late.server?.free ?? Infinity);
    const context = makeContext({
      databaseUrl: own.href,
      databaseConnections: connections,
      room,
      clock: () => late.server?.now ?? new Date(),
      log,
      mail: { domain: 'test.example', publicUrl: 'https://polychron.test.example', transport: null },
      stagingFolder,
      uploadsFolder: mkdtempSync(join(tmpdir(), 'uploads-')),
    });
    // By connections of its own: a server may have but one here.
    const migrating = connect(own.href);
    await takeShape(migrating, { url, admin });
    await migrating.close();
    const app = createApp(context, {
      evenly: false,
      onRefusal: (operation, { code }) => {
        if (operation && !isDeclared(operation, code)) late.server?.undeclared.add(`${operation} ${code}`);
      },
    });
    const listener = createServer(app).listen(0, '127.0.0.1');
    await once(listener, 'listening');
    late.server = new TestServer(context, app, listener, admin, name);
    return late.server;
  }

  async stop(): Promise<void> {
    if (this.undeclared.size > 0) {
      throw new Error(`contract/src/refusals.ts does not name: ${[...this.undeclared].join(', ')}`);
    }
    const closed = once(this.listener, 'close');
    this.listener.close();
    this.listener.closeAllConnections();
    await closed;
    await closeContext(this.context);
    await this.admin.query(`DROP DATABASE ${this.name}`);
    await this.admin.close();
    for (const folder of [this.context.stagingFolder, this.context.uploads.store.directory])
      rmSync(folder, { recursive: true, force: true });
  }

  pass(hours: number): void {
    this.now = new Date(this.now.getTime() + hours * 3_600_000);
  }

  /** Lets days pass while the server, whose time is believed, runs and looks at its clock. */
  async live(days: number): Promise<void> {
    await transact(this.context.db, (tx) => confirmTime(this.context, this.now, tx));
    for (let day = 0; day < days; day += 1) {
      this.pass(24);
      await noteTime(this.context, this.now);
    }
  }

  /** A person with this account, made when first asked for; `admin` is the system administrator. */
  async caller(account: string): Promise<Caller> {
    const known = this.callers.get(account);
    if (known) return known;
    const person = {
      account,
      name: `${account[0]?.toUpperCase()}. ${account}`,
      systemAdministrator: account === 'admin',
    };
    const caller = { ...person, id: await addPerson(this.context, person) };
    this.callers.set(account, caller);
    return caller;
  }

  /** That person, asking this server. */
  async asker(account: string): Promise<Asker> {
    return { context: this.context, caller: await this.caller(account) };
  }

  /** Gives that person a password that costs little to try. */
  async password(account: string, password = 'correct horse'): Promise<void> {
    const { id } = await this.caller(account);
    await setPasswordHash(this.context, id, await hashPassword(password, { N: 16, r: 8, p: 1 }));
  }

  /** HTTP as that person, by a personal token. */
  async as(account: string): Promise<Agent> {
    const known = this.agents.get(account);
    if (known) return known;
    const { secret } = await makeToken(await this.asker(account), { name: 'tests' });
    const agent = request.agent(this.listener).set('Authorization', `Bearer ${secret}`);
    this.agents.set(account, agent);
    return agent;
  }

  /** A library whose members hold the role of their account's name: reader, author, author2 … */
  async library(rulebook: RulebookChoices = {}): Promise<string> {
    const admin = await this.asker('admin');
    const code = `L${randomBytes(4).toString('hex').toUpperCase()}`;
    const accounts = ['reader', 'auditor', 'author', 'author2', 'approver', 'approver2', 'controller'];
    for (const account of accounts) await this.caller(account);
    const { id } = await performCreateLibrary(admin, {
      name: `Library ${code}`,
      code,
      purpose: '',
      rulebook,
    });
    await performSetMembers(
      admin,
      id,
      accounts.map((account) => ({ account, roles: [account.replace(/\d/, '') as Role] })),
    );
    return id;
  }

  /** Takes somebody out of a library, with whatever they have to do there, as no act does. */
  async expel(libraryId: string, account: string): Promise<void> {
    const { id: personId } = await this.caller(account);
    await this.context.models.Member.destroy({ where: { libraryId, personId } });
  }

  /** A document of one version that says `words`, made by the author. */
  async document(
    libraryId: string,
    words = 'first text',
    options: { level?: 'minor' | 'major'; title?: string; account?: string } = {},
  ): Promise<Document> {
    const answer = await (
      await this.as(options.account ?? 'author')
    )
      .post(`/api/v1/libraries/${libraryId}/documents`)
      .field('fields', JSON.stringify({ title: options.title ?? 'Opening the line' }))
      .field('comment', 'First')
      .field('level', options.level ?? 'minor')
      .attach('file', docxOf(words), 'op.docx')
      .expect(201);
    return answer.body as Document;
  }

  /** Checks out and in again with a new text. */
  async change(
    documentId: string,
    words: string,
    level: 'minor' | 'major' = 'minor',
    account = 'author',
  ): Promise<Version> {
    const agent = await this.as(account);
    await agent.post(`/api/v1/documents/${documentId}/checkout`).send({}).expect(201);
    this.pass(1);
    const answer = await agent
      .post(`/api/v1/documents/${documentId}/checkin`)
      .field('comment', `Now ${words.slice(0, 60)}`)
      .field('level', level)
      .attach('file', docxOf(words), 'op.docx')
      .expect(201);
    return answer.body as Version;
  }

  /** Carries out what was queued behind the acts so far. */
  async settle(): Promise<void> {
    await runJobs(this.context);
  }

  /** Sets rules as the controller. */
  async rules(libraryId: string, rules: RulebookChoices): Promise<void> {
    await (
      await this.as('controller')
    )
      .put(`/api/v1/libraries/${libraryId}/rulebook`)
      .send({ ...rules, reason: 'For the test' })
      .expect(200);
    await this.settle();
  }

  /** Labels of the versions whose content is kept, newest first. */
  async kept(documentId: string, account = 'controller'): Promise<string[]> {
    const answer = await (
      await this.as(account)
    )
      .get(`/api/v1/documents/${documentId}/versions?limit=200`)
      .expect(200);
    return (answer.body as { items: Version[] }).items
      .filter(({ thinned }) => !thinned)
      .map(({ label }) => label);
  }

  /** Labels an account sees, newest first. */
  async labels(documentId: string, account = 'author'): Promise<string[]> {
    const answer = await (await this.as(account)).get(`/api/v1/documents/${documentId}/versions`).expect(200);
    return (answer.body as { items: Version[] }).items.map(({ label }) => label);
  }
}
