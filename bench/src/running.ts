import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const port = Number(process.env['POLYCHRON_TEST_PORT'] ?? 4620);
const root = join(import.meta.dirname, '../..');

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, milliseconds);
  });
const ended = (child: ChildProcess): Promise<number | null> =>
  new Promise((resolve) => {
    child.once('exit', resolve);
  });
export const megabytes = (bytes: number): string => `${Math.round(bytes / 1e6)} MB`;

/** The product in a process of its own, with the demo, over the database that scripts/bench gives. */
export class Running {
  readonly origin = `http://127.0.0.1:${port}`;
  readonly base = `${this.origin}/api/v1`;
  private readonly staging = mkdtempSync(join(tmpdir(), 'bench-running-'));
  private server: ChildProcess | null = null;

  async start(): Promise<void> {
    if ((await ended(this.run('demo/dist/load.js', '--demo'))) !== 0)
      throw new Error('the demo was not loaded');
    const server = this.run('server/dist/main.js');
    this.server = server;
    // Also where the benchmark fails.
    process.once('exit', () => server.kill());
    while (!(await fetch(`${this.origin}/healthz`).catch(() => null))?.ok) await pause(100);
  }

  /** Bytes of memory the process holds, now and at most so far. */
  held(what: 'VmRSS' | 'VmHWM'): number {
    const told = readFileSync(`/proc/${this.server?.pid}/status`, 'utf8');
    return 1024 * Number(new RegExp(`${what}:\\s+(\\d+)`).exec(told)?.[1]);
  }

  /** What the requests of one who has signed in carry. */
  async cookieOf(account: string): Promise<string> {
    const body = JSON.stringify({ account, password: 'orrin-vale' });
    const headers = { 'Content-Type': 'application/json' };
    const answer = await fetch(`${this.base}/session`, { method: 'POST', body, headers });
    return answer.headers.getSetCookie()[0]?.split(';')[0] ?? '';
  }

  async stop(): Promise<void> {
    if (this.server) {
      this.server.kill();
      await ended(this.server);
    }
    rmSync(this.staging, { recursive: true, force: true });
  }

  private run(script: string, ...options: string[]): ChildProcess {
    return spawn(process.execPath, ['--max-semi-space-size=32', join(root, script), ...options], {
      stdio: ['ignore', 'inherit', 'inherit'],
      env: {
        ...process.env,
        POLYCHRON_PORT: String(port),
        POLYCHRON_STAGING: this.staging,
        // As scripts/start does.
        MALLOC_ARENA_MAX: '1',
        MALLOC_TRIM_THRESHOLD_: '1000000',
      },
    });
  }
}
