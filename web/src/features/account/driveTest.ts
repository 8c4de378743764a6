/** What a desktop program needs of the drive, in the order it asks for it. */
export const needs = ['address', 'sign-in', 'lock', 'save', 'unlock'] as const;
export type Need = (typeof needs)[number];

/** What came of one of them. */
export interface Outcome {
  need: Need;
  ok: boolean;
  /** What the server answered, in words. */
  told: string;
}

const lockBody =
  '<?xml version="1.0"?><D:lockinfo xmlns:D="DAV:"><D:lockscope><D:exclusive/></D:lockscope><D:locktype><D:write/></D:locktype><D:owner>Self-test</D:owner></D:lockinfo>';

/** Asks the drive as a program would: with account and token, and nothing of the page's own sign-in. */
class Program {
  private readonly authorization: string;

  constructor(
    private readonly drive: string,
    account: string,
    secret: string,
  ) {
    this.authorization = `Basic ${btoa(String.fromCharCode(...new TextEncoder().encode(`${account}:${secret}`)))}`;
  }

  ask(method: string, path: string, asked: { headers?: Record<string, string>; body?: string } = {}) {
    const headers = { Authorization: this.authorization, ...asked.headers };
    return fetch(this.drive + path, { method, credentials: 'omit', ...asked, headers });
  }
}

const said = ({ status, statusText }: Response, what: string): string =>
  `${what}: ${status}${statusText && ` ${statusText}`}`;

/** Tries each need in turn, and ends with the first that fails. Leaves nothing on the drive. */
export async function* testDrive(drive: string, account: string, secret: string): AsyncGenerator<Outcome> {
  const program = new Program(drive, account, secret);
  const options = await fetch(drive, { method: 'OPTIONS', credentials: 'omit' });
  const classes = options.headers.get('dav') ?? '';
  const takesLocks = classes.split(',').some((one) => one.trim() === '2');
  yield {
    need: 'address',
    ok: options.ok && takesLocks,
    told: `${said(options, 'OPTIONS')}; classes ${classes || 'none'}`,
  };
  if (!takesLocks) return;
  const signedIn = await program.ask('PROPFIND', 'Desk/', { headers: { Depth: '0' } });
  yield { need: 'sign-in', ok: signedIn.status === 207, told: said(signedIn, 'PROPFIND of your Desk') };
  if (signedIn.status !== 207) return;
  // A name of a file that is kept only for a while: it becomes no arrival.
  const file = `Desk/self-test-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36)}.tmp`;
  const locked = await program.ask('LOCK', file, { body: lockBody, headers: { Timeout: 'Second-60' } });
  const token = locked.headers.get('lock-token') ?? '';
  const second = await program.ask('LOCK', file, { body: lockBody });
  yield {
    need: 'lock',
    ok: locked.ok && token !== '' && second.status === 423,
    told: `${said(locked, 'LOCK')}; ${said(second, 'a second one')}`,
  };
  if (!locked.ok) return;
  const body = `Saved by the self-test of ${account}`;
  const saved = await program.ask('PUT', file, { body, headers: { If: `(${token})` } });
  const read = await program.ask('GET', file);
  const isSame = (await read.text()) === body;
  yield {
    need: 'save',
    ok: saved.ok && isSame,
    told: `${said(saved, 'PUT')}; ${isSame ? 'read back, byte for byte' : said(read, 'read back as something else')}`,
  };
  const unlocked = await program.ask('UNLOCK', file, { headers: { 'Lock-Token': token } });
  const removed = await program.ask('DELETE', file);
  yield {
    need: 'unlock',
    ok: unlocked.status === 204 && removed.status === 204,
    told: `${said(unlocked, 'UNLOCK')}; ${said(removed, 'DELETE of what was tried')}`,
  };
}
