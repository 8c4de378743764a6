import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import type { Express } from 'express';
import { SaxesParser } from 'saxes';
import { makeToken } from '../access/sessions.ts';
import type { TestServer } from './server.ts';

/** What a program signs in with (RFC 7617). */
export const basic = (account: string, secret: string): string =>
  `Basic ${Buffer.from(`${account}:${secret}`).toString('base64')}`;

/** What a multistatus tells: of each address, properties by status, as XML names and texts. */
export interface Told {
  href: string;
  properties: Map<string, { status: string; text: string; inside: string[] }>;
}

/** Reads a multistatus (RFC 4918, 14.16); a property in another namespace has that before its name. */
export function readMultistatus(xml: string): Told[] {
  const told: Told[] = [];
  const parser = new SaxesParser({ xmlns: true });
  const open: string[] = [];
  let [names, text] = [[] as { name: string; text: string; inside: string[] }[], ''];
  parser.on('error', (error) => {
    throw error;
  });
  parser.on('opentag', ({ uri, local }) => {
    open.push(`${uri === 'DAV:' ? '' : `${uri} `}${local}`);
    text = '';
    if (local === 'response') told.push({ href: '', properties: new Map() });
    if (open.at(-2) === 'prop') names.push({ name: open.at(-1) ?? '', text: '', inside: [] });
    if (open.at(-3) === 'prop') names.at(-1)?.inside.push(local);
  });
  parser.on('text', (part) => {
    text += part;
  });
  parser.on('closetag', ({ local }) => {
    const last = told.at(-1);
    if (open.at(-2) === 'prop') Object.assign(names.at(-1) ?? {}, { text });
    if (last && local === 'href') last.href = text;
    if (last && local === 'status') {
      for (const { name, ...rest } of names) last.properties.set(name, { status: text, ...rest });
      names = [];
    }
    open.pop();
  });
  parser.write(xml).close();
  return told;
}

export const isFolder = ({ properties }: Told): boolean =>
  properties.get('resourcetype')?.inside.includes('collection') ?? false;
export const named = ({ href }: Told): string => decodeURIComponent(href.split('/').at(-1) ?? '');

/** One request of a program. */
export interface Asking {
  method?: string;
  headers?: Record<string, string>;
  body?: string | Buffer;
  redirect?: 'follow' | 'manual';
}

/** The drive of a test's server, as programs of its accounts ask for it. */
export class TestDrive {
  private readonly listening: Server[] = [];
  private readonly secrets = new Map<string, string>();
  base = '';

  constructor(private readonly server: TestServer) {}

  async start(): Promise<void> {
    this.base = await this.listen(this.server.app);
  }

  stop(): void {
    for (const each of this.listening) each.close();
  }

  async listen(app: Express): Promise<string> {
    const listens = app.listen(0, '127.0.0.1');
    this.listening.push(listens);
    await new Promise((resolve) => {
      listens.once('listening', resolve);
    });
    return `http://127.0.0.1:${(listens.address() as AddressInfo).port}`;
  }

  /** A token of an account's, to be the password. */
  async secretOf(account: string): Promise<string> {
    const known = this.secrets.get(account);
    if (known !== undefined) return known;
    const { secret } = await makeToken(await this.server.asker(account), { name: 'drive' });
    this.secrets.set(account, secret);
    return secret;
  }

  async ask(
    account: string,
    path: string,
    { method = 'GET', headers = {}, body, redirect = 'follow' }: Asking = {},
  ) {
    const Authorization = basic(account, await this.secretOf(account));
    const sent =
      body === undefined || body === ''
        ? {}
        : { body: typeof body === 'string' ? body : new Uint8Array(body) };
    return fetch(this.base + path, { method, redirect, headers: { Authorization, ...headers }, ...sent });
  }

  async list(account: string, path: string, depth = '1', body = ''): Promise<Told[]> {
    const answer = await this.ask(account, path, { method: 'PROPFIND', headers: { Depth: depth }, body });
    expect(answer.status).toBe(207);
    return readMultistatus(await answer.text());
  }

  /** Everything below a place, folder by folder, with all that was said on the way. */
  async walk(account: string, from: string): Promise<{ files: Told[]; said: string }> {
    const files: Told[] = [];
    let said = '';
    for (const folders = [from]; folders.length > 0;) {
      const path = folders.pop() ?? '';
      const headers = { Depth: '1' };
      const answer = await this.ask(account, path, { method: 'PROPFIND', headers });
      expect(answer.status).toBe(207);
      const xml = await answer.text();
      const [, ...inside] = readMultistatus(xml);
      said +=
        xml + JSON.stringify([...answer.headers]) + inside.map(({ href }) => decodeURIComponent(href)).join();
      folders.push(...inside.filter(isFolder).map(({ href }) => href));
      files.push(...inside.filter((one) => !isFolder(one)));
    }
    return { files, said };
  }

  async codeOf(libraryId: string): Promise<string> {
    const agent = await this.server.as('controller');
    return ((await agent.get(`/api/v1/libraries/${libraryId}`)).body as { code: string }).code;
  }
}
