import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { ProviderPlace } from '../access/provider.ts';

/**
 * A provider of identities in a process of its own (`provider.mjs`): an open-source one, from its package.
 */
export class TestProvider {
  private constructor(
    private readonly process: ChildProcess,
    readonly place: ProviderPlace,
  ) {}

  static async start(publicUrl: string): Promise<TestProvider> {
    const port = await freePort();
    const returnAddress = `${publicUrl}/api/v1/session/provider/return`;
    const script = join(import.meta.dirname, 'provider.mjs');
    const child = spawn(process.execPath, [script, String(port), returnAddress], {
      stdio: ['ignore', 'pipe', 'ignore', 'ipc'],
    });
    const { stdout } = child;
    if (!stdout) throw new Error('the provider has no output');
    await once(stdout, 'data');
    const place = {
      issuer: `http://127.0.0.1:${port}`,
      clientId: 'polychron',
      clientSecret: 'for the tests',
      name: 'Ropeway sign-in',
      publicUrl,
    };
    return new TestProvider(child, place);
  }

  /** Says which groups somebody is in from now on; undefined: it tells nothing of groups. */
  async tell(name: string, groups: string[] | undefined): Promise<void> {
    const told = once(this.process, 'message');
    this.process.send({ name, groups });
    await told;
  }

  /** Signs somebody in as a browser would, by its pages; returns where it leads back to. */
  async signIn(address: string, login: string): Promise<URL> {
    const jar = new Map<string, string>();
    let asked = new Request(address);
    for (let steps = 0; steps < 12; steps += 1) {
      if (!asked.url.startsWith(this.place.issuer)) return new URL(asked.url);
      const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ');
      asked.headers.set('cookie', cookie);
      const answer = await fetch(asked, { redirect: 'manual' });
      for (const set of answer.headers.getSetCookie()) {
        const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(set) ?? [];
        jar.set(name, value);
      }
      const location = answer.headers.get('location');
      asked = location
        ? new Request(new URL(location, asked.url))
        : formIn(await answer.text(), asked.url, login);
    }
    throw new Error('the provider leads nowhere');
  }

  async stop(): Promise<void> {
    const ended = once(this.process, 'exit');
    this.process.kill();
    await ended;
  }
}

/** The form of a page, filled in. */
function formIn(page: string, address: string, login: string): Request {
  const action = /action="([^"]+)"/.exec(page)?.[1];
  const prompt = /name="prompt" value="(\w+)"/.exec(page)?.[1];
  if (!action || !prompt) throw new Error(`a page without a form: ${page.slice(0, 300)}`);
  const body = new URLSearchParams({ prompt, login, password: 'any' });
  return new Request(new URL(action, address), { method: 'POST', body });
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  await once(server, 'close');
  return port;
}
