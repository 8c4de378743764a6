import { isMainThread, Worker, workerData } from 'node:worker_threads';
import { once } from 'node:events';
import { strToU8, zipSync } from 'fflate';
import { megabytes, pause, Running } from './running.ts';
import { tell } from './tell.ts';

/**
 * What `/healthz` waits, at most, while the worst that each parser of what comes in can be given is sent by
 * ten at once, and what the server holds then. Bodies are made and sent by a thread of its own, so that
 * whoever asks for `/healthz` does not wait for that. Run by scripts/bench, which gives it a database.
 */
interface Sent {
  base: string;
  cookie: string;
  basic: string;
  library: string;
}
/** What one sends again and again: where to, and what. */
interface Attack {
  path: string;
  init: RequestInit;
}
/** The most `/healthz` may wait, in milliseconds, and the server hold, in bytes. */
const patience = 500;
const most = 1_000_000_000;

const names = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';
const docx = (body: string): Uint8Array<ArrayBuffer> =>
  new Uint8Array(
    zipSync({
      '[Content_Types].xml': strToU8(
        '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
      ),
      'word/document.xml': strToU8(`<w:document ${names}><w:body>${body}</w:body></w:document>`),
    }),
  );

/** The worst of each, by its name; the table in docs/security.md has the bounds. */
function attacks({ cookie, basic, library }: Sent): Record<string, () => Attack> {
  const xml = (inside: string) => (): Attack => ({
    path: '/dav/OP/',
    init: {
      method: 'PROPFIND',
      headers: { authorization: basic, depth: '1' },
      body: `<D:propfind xmlns:D="DAV:"><D:prop>${inside}</D:prop></D:propfind>`,
    },
  });
  const json = (body: string) => (): Attack => ({
    path: '/api/v1/groups',
    init: { method: 'POST', headers: { cookie, 'content-type': 'application/json' }, body },
  });
  const file = (name: string, make: () => Uint8Array<ArrayBuffer>) => {
    const content = make();
    return (): Attack => {
      const body = new FormData();
      body.append('fields', JSON.stringify({ title: `${name} ${Math.random()}` }));
      body.append('comment', 'The worst');
      body.append('level', 'minor');
      body.append('file', new Blob([content]), name);
      return {
        path: `/api/v1/libraries/${library}/documents`,
        init: { method: 'POST', headers: { cookie }, body },
      };
    };
  };
  const text = (words: string) => () => new Uint8Array(Buffer.from(words));
  const fields = (count: number, size: number) => (): Attack => {
    const body = new FormData();
    for (let index = 0; index < count; index += 1) body.append(`f${index}`, 'x'.repeat(size));
    return {
      path: `/api/v1/libraries/${library}/documents`,
      init: { method: 'POST', headers: { cookie }, body },
    };
  };
  const mail = (message: string) => (): Attack => ({
    path: '/api/v1/mail',
    init: { method: 'POST', headers: { 'content-type': 'message/rfc822' }, body: message },
  });
  const get =
    (path: string, headers: Record<string, string> = {}) =>
    (): Attack => ({
      path,
      init: { headers: { cookie, ...headers } },
    });
  return {
    'XML, a namespace of 100,000 signs': xml(`<a xmlns="${'n'.repeat(100_000)}"/>${'<b/>'.repeat(5000)}`),
    'XML, 5,000 properties': xml('<a xmlns="urn:a"/>'.repeat(5000)),
    'XML, 16,000 deep': xml('<x>'.repeat(16_000) + '</x>'.repeat(16_000)),
    'XML, 20,000 attributes': xml(
      `<a ${Array.from({ length: 20_000 }, (_, index) => `a${index}=""`).join(' ')}/>`,
    ),
    'XML, 190 properties of each file': xml(
      Array.from({ length: 190 }, (_, index) => `<a${index} xmlns="urn:${'n'.repeat(400)}"/>`).join(''),
    ),
    'JSON, 900,000 deep': json(`{"name":"x","a":${'['.repeat(900_000)}${']'.repeat(900_000)}}`),
    'JSON, 150,000 names': json(
      `{${Array.from({ length: 150_000 }, (_, index) => `"a${index}":1`).join(',')}}`,
    ),
    'JSON, a list of 600,000': json(`{"name":"x","people":[${'1,'.repeat(600_000)}1]}`),
    'a form of 30 fields of 2 MB': fields(30, (2 << 20) - 1),
    'a form of 10,000 parts': fields(10_000, 1),
    'mail of 50 MB': mail('x'.repeat(50_000_000)),
    'mail, 9,000 addresses': mail(`To: ${'a@b.example, '.repeat(9000)}\r\n\r\n`),
    'mail, 100,000 heads': mail('To: a\r\n'.repeat(100_000)),
    'cookies of 15 kB': get('/api/v1/desk', { cookie: `${cookie}; ${'a=b; '.repeat(3000)}` }),
    'a query of 12 kB': get(`/api/v1/libraries/${library}/documents?${'a[b][c]=d&'.repeat(1200)}`),
    'ranges by the thousand': get('/dav/', {
      authorization: basic,
      range: `bytes=${'0-1,'.repeat(3000)}0-1`,
    }),
    'a condition of 14 kB': get('/dav/', { authorization: basic, if: '(<a:b>)'.repeat(2000) }),
    'CSV, one quote open': file('quote.csv', text(`"${'a,'.repeat(2_000_000)}`)),
    'CSV, 3,000,000 cells': file('cells.csv', text(`${','.repeat(1000)}\n`.repeat(3000))),
    'Markdown, 100,000 deep': file('deep.md', text('>'.repeat(100_000))),
    'Markdown, brackets': file('brackets.md', text('['.repeat(500_000))),
    'Markdown, stars': file('stars.md', text('*a_ '.repeat(250_000))),
    '.docx, 59,000 tables': file('tables.docx', () =>
      docx('<w:tbl><w:tr><w:tc><w:p/></w:tc></w:tr></w:tbl>'.repeat(59_000)),
    ),
    '.docx, 50,000 deep': file('deep.docx', () =>
      docx('<w:sdt><w:sdtContent>'.repeat(50_000) + '</w:sdtContent></w:sdt>'.repeat(50_000)),
    ),
    '.docx, unfolding to 120 MB': file('bomb.docx', () => docx(' '.repeat(120_000_000))),
  };
}

/** Sends one attack by ten at once for a while; tells what was answered. */
async function send(sent: Sent, name: string): Promise<string> {
  const make = attacks(sent)[name];
  if (!make) throw new Error(name);
  const said = new Map<string, number>();
  const until = Date.now() + 4000;
  const one = async (): Promise<void> => {
    do {
      const { path, init } = make();
      const told = await fetch(`${sent.base}${path}`, init).then(
        async (answer) => {
          for await (const _ of answer.body ?? []) continue;
          return String(answer.status);
        },
        // Whoever sends on after a refusal is cut off.
        () => 'cut off',
      );
      said.set(told, (said.get(told) ?? 0) + 1);
    } while (Date.now() < until);
  };
  await Promise.all(Array.from({ length: 10 }, one));
  return [...said].map(([status, count]) => `${status} × ${count}`).join(', ');
}

if (!isMainThread) {
  const { parentPort } = await import('node:worker_threads');
  const { sent, name } = workerData as { sent: Sent; name: string };
  parentPort?.postMessage(await send(sent, name));
} else {
  const running = new Running();
  await running.start();
  const base = running.origin;
  const cookie = await running.cookieOf('author');
  const token = await fetch(`${base}/api/v1/tokens`, {
    method: 'POST',
    headers: { cookie, 'content-type': 'application/json' },
    body: JSON.stringify({ name: 'worst', scope: 'read' }),
  });
  const { token: secret } = (await token.json()) as { token: string };
  const basic = `Basic ${Buffer.from(`author:${secret}`).toString('base64')}`;
  const { items } = (await (await fetch(`${base}/api/v1/libraries`, { headers: { cookie } })).json()) as {
    items: { id: string; code: string }[];
  };
  const sent = { base, cookie, basic, library: items.find(({ code }) => code === 'OP')?.id ?? '' };
  console.log(`at rest ${megabytes(running.held('VmRSS'))}`);
  let worst = 0;
  for (const name of Object.keys(attacks(sent))) {
    const sending = new Worker(import.meta.filename, { workerData: { sent, name } });
    let [over, waited, asked] = [false, 0, 0];
    const answered = once(sending, 'message').then(([said]) => {
      over = true;
      return String(said);
    });
    while (!over) {
      const from = performance.now();
      await (await fetch(`${base}/healthz`)).arrayBuffer();
      waited = Math.max(waited, performance.now() - from);
      asked += 1;
      await pause(10);
    }
    worst = Math.max(worst, waited);
    const holds = megabytes(running.held('VmHWM'));
    console.log(
      `${name}: ${Math.round(waited)} ms at most of ${asked}; ${await answered}; at most ${holds} so far`,
    );
    await sending.terminate();
  }
  tell('what /healthz waits, of half a second,', worst / patience, 1);
  tell('memory, of a gigabyte,', running.held('VmHWM') / most, 1);
  await running.stop();
}
