import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { makeToken } from '../access/sessions.ts';
import type { TestServer } from './server.ts';

/** Listens to a server's events as several people at once, over real connections. */
export class Listening {
  private readonly heard = new Map<string, string[]>();
  private readonly over = new Set<string>();
  private readonly leave = new AbortController();

  private constructor(
    private readonly server: TestServer,
    private readonly listener: Server,
  ) {}

  static async start(server: TestServer, accounts: readonly string[]): Promise<Listening> {
    const listener = server.app.listen(0, '127.0.0.1');
    await new Promise((resolve) => {
      listener.once('listening', resolve);
    });
    const listening = new Listening(server, listener);
    for (const account of accounts) await listening.listen(account);
    return listening;
  }

  private async listen(account: string): Promise<void> {
    const { secret } = await makeToken(await this.server.asker(account), { name: 'events' });
    await this.listenWith(account, { Authorization: `Bearer ${secret}` });
  }

  /** Listens as somebody by the sign-in these headers hold. */
  async listenWith(account: string, headers: Record<string, string>): Promise<void> {
    const { port } = this.listener.address() as AddressInfo;
    const answer = await fetch(`http://127.0.0.1:${port}/api/v1/events`, {
      headers,
      signal: this.leave.signal,
    });
    this.heard.set(account, []);
    void this.read(account, answer).catch((error: unknown) => {
      if (!this.leave.signal.aborted) throw error;
    });
    await this.until(() => this.count(account, 'ready') === 1);
  }

  private async read(account: string, answer: Response): Promise<void> {
    const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader();
    let text = '';
    for (;;) {
      const part = await reader?.read();
      if (!part || part.done) {
        this.over.add(account);
        return;
      }
      text += part.value;
      const names = [...text.matchAll(/event: (\w+)/g)].map(([, event]) => event as string);
      this.heard.set(account, names);
    }
  }

  /** How many events of a name somebody has heard. */
  count(account: string, event = 'document'): number {
    return this.heard.get(account)?.filter((each) => each === event).length ?? 0;
  }

  /** Whether the server has ended somebody's stream. */
  ended(account: string): boolean {
    return this.over.has(account);
  }

  /** Waits until something is heard; two seconds at most. */
  async until(met: () => boolean): Promise<void> {
    for (let tries = 0; tries < 200 && !met(); tries += 1)
      await new Promise((resolve) => {
        setTimeout(resolve, 10);
      });
    expect(met()).toBe(true);
  }

  async stop(): Promise<void> {
    this.leave.abort();
    await new Promise((resolve) => {
      this.listener.close(resolve);
      this.listener.closeAllConnections();
    });
  }
}
