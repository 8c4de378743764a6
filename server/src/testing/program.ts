import { type ChildProcess, spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { join } from 'node:path';

/** A port of loopback that nobody listens on. */
export async function freePort(): Promise<number> {
  const probe = createServer();
  await new Promise<void>((resolve) => {
    probe.listen(0, '127.0.0.1', resolve);
  });
  const { port } = probe.address() as { port: number };
  await new Promise((resolve) => {
    probe.close(resolve);
  });
  return port;
}

/** A built program of the server's, as a process of its own. */
export interface Program extends AsyncDisposable {
  child: ChildProcess;
  /** What it has printed so far, errors too. */
  printed: () => string;
  /** Its exit code once it has ended; null where a signal ended it. */
  ended: Promise<number | null>;
}

/** Runs a built program of the server's, `main.js` or a command. */
export function runProgram(
  script: string,
  { args = [], env }: { args?: string[]; env: NodeJS.ProcessEnv },
): Program {
  const file = join(import.meta.dirname, '../../dist', script);
  const child = spawn(process.execPath, [file, ...args], { env: { ...process.env, ...env } });
  let printed = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part: Buffer) => (printed += part.toString()));
  const ended = new Promise<number | null>((resolve) => {
    child.once('close', resolve);
  });
  return {
    child,
    printed: () => printed,
    ended,
    async [Symbol.asyncDispose]() {
      child.kill('SIGKILL');
      await ended;
    },
  };
}
