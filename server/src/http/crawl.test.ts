import { type Route, routes } from '@polychron/contract';
import type { SightRole } from '@polychron/core';
import type { Response } from 'supertest';
import { rows } from '../store/database.ts';
import { MarkedLibrary, type Marked, roleOf } from '../testing/markedLibrary.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const accounts = ['reader', 'auditor', 'author', 'author2', 'approver', 'controller'];
const wide = process.env['POLYCHRON_TEST_RUNS'] !== undefined;
const sets: SightRole[][] = wide
  ? [['author', 'approver'], ['reader'], ['auditor'], []]
  : [['author'], ['auditor']];
/** Streams that do not end are heard in events.test.ts. */
const endless = new Set(['events']);
const reading = Object.entries(routes as Record<string, Route>).filter(
  ([name, { method, open }]) => method === 'get' && !open && !endless.has(name),
);

/** Every address a route has over a library, with the queries that reach further. */
function addresses(library: MarkedLibrary, route: Route): string[] {
  const { path } = route;
  if (path.startsWith('/libraries')) {
    const here = path.replace('{id}', library.id);
    if (path.endsWith('/subjects')) {
      const first = library.versions.flatMap(({ subjects }) => subjects.slice(0, 1));
      return [here, ...[...new Set(first)].map((name) => `${here}?path=${encodeURIComponent(name)}`)];
    }
    if (path.endsWith('/days')) return [`${here}?from=2020-01-01T00:00:00Z&to=${server.now.toISOString()}`];
    // By the names of files, and by numbers.
    if (path.endsWith('/file-names')) return library.fileNames.map((name) => `${here}?name=${name}`);
    if (!path.endsWith('/documents')) return [here];
    const words = library.versions.flatMap(({ marks }) =>
      [...marks].filter((mark) => mark.startsWith('mark')),
    );
    const found = words.filter((_, at) => wide || at % 2 === 0).map((word) => `${here}?q=${word}`);
    return [here, `${here}?state=draft`, `${here}?state=rejected`, ...new Set(found)];
  }
  const perVersion = ({ documentId, id, label }: Marked): string[] =>
    (path.endsWith('{v}') ? [id, label] : [label]).map((v) =>
      path.replace('{id}', documentId).replace('{v}', v).replace('{part}', 'x.png'),
    );
  if (path.endsWith('/outlook')) {
    const asked = library.versions.flatMap(perVersion);
    return ['withdraw', 'reinstate', 'takeBack'].flatMap((act) => asked.map((one) => `${one}?act=${act}`));
  }
  // Contents are asked for as issued copies, too.
  const forms = (all: string[]): string[] =>
    path.endsWith('/content') && !/checkout|saves/.test(path)
      ? all.flatMap((one) => [one, `${one}?issued=1`])
      : all;
  if (path.includes('{v}')) return forms(library.versions.flatMap(perVersion));
  if (path === '/outbox/{id}') return library.messageIds.map((id) => path.replace('{id}', id));
  if (path === '/approvals') {
    const out = ['inApproval', 'approved', 'rejected'].map((state) => `${path}?part=out&state=${state}`);
    return [path, ...out];
  }
  if (path.endsWith('/compare') && !path.includes('checkout')) {
    return library.versions.flatMap((from) =>
      library.versions
        .filter(({ documentId }) => documentId === from.documentId)
        .map((to) => `${path.replace('{id}', from.documentId)}?from=${from.label}&to=${to.label}`),
    );
  }
  // Of what one holds: each is asked for by itself.
  if (path.endsWith('/working-copies')) return library.documentIds.map((id) => `${path}?documents=${id}`);
  const fill = (id: string): string => path.replace('{id}', id).replace('{position}', '1');
  return path.includes('{id}') ? forms(library.documentIds.map(fill)) : [path];
}

/** What an answer says, headers too, without the address that was asked. */
const said = (answer: Response): string => `${JSON.stringify(answer.headers)} ${answer.text}`;

/**
 * Asks every reading route, or those that show it as somebody else or as it was; returns all that was said,
 * and the addresses that said what is hidden.
 */
async function crawl(
  library: MarkedLibrary,
  account: string,
  hidden: readonly string[],
  query: { as?: string; asOf?: string } = {},
) {
  const agent = await server.as(account);
  const leaks: string[] = [];
  let all = '';
  for (const [name, route] of reading) {
    if ((query.as !== undefined && !route.seenAs) || (query.asOf !== undefined && !route.asOf)) continue;
    // What is not there is answered at even times: many are asked at once, so that the waiting is one.
    const ask = async (address: string): Promise<void> => {
      const answer = await agent.get(`/api/v1${address}`).query(query).buffer();
      if (answer.status >= 500) leaks.push(`${name} ${address}: ${answer.status}`);
      // A cache that others share keeps nothing of it (RFC 9111, section 5.2.2).
      const kept = String(answer.headers['cache-control']);
      if (!/private|no-store/.test(kept)) leaks.push(`${name} ${address}: Cache-Control ${kept}`);
      const text = said(answer);
      const told = hidden.filter((mark) => text.includes(mark) && !address.includes(mark));
      if (told.length > 0) leaks.push(`${name} ${address}: ${told.join(' ')}`);
      // The file's words are packed; the reading says them.
      if (answer.ok && !route.path.endsWith('/content')) all += text;
      if (answer.ok && hidden.some((mark) => address.includes(mark)) && !/"total":0|"items":\[\]/.test(text))
        leaks.push(`${name} ${address}: found`);
    };
    await Promise.all(addresses(library, route).map(ask));
  }
  return { leaks, all };
}

describe.each(sets.map((named, place) => ({ named, place })))('sight $named', ({ named, place }) => {
  let library: MarkedLibrary;
  beforeAll(async () => {
    library = await MarkedLibrary.make(server, {
      sight: { draft: named, inApproval: named, rejected: named },
    });
  });

  // Who sees the same under every set is asked under the first; of two who see the same one is asked.
  const alike = place === 0 ? ['approver'] : ['reader', 'author2', 'approver', 'controller'];
  test.each(wide ? accounts : accounts.filter((account) => !alike.includes(account)))(
    '%s reads nothing anywhere of what they do not see, and all of what they do',
    async (account) => {
      const seen = await library.seenBy(account, [roleOf(account)]);
      const { leaks, all } = await crawl(library, account, library.hiddenFrom(seen));
      expect(leaks).toEqual([]);
      const open = library.versions.filter(({ id, readable }) => seen.has(id) && readable);
      for (const { marks } of open) for (const mark of marks) expect(all).toContain(mark);
    },
  );

  // As somebody else, and as it was: of one set, or of all where there is time.
  if (place > 0 && !wide) return;
  test.each(wide ? ['reader', 'auditor', 'author2'] : ['reader'])(
    'as %s, a controller reads the same',
    async (account) => {
      const seen = await library.seenBy(account, [roleOf(account)]);
      const { leaks } = await crawl(library, 'controller', library.hiddenFrom(seen), { as: account });
      expect(leaks).toEqual([]);
    },
  );

  test.each(wide ? ['reader', 'auditor', 'author2'] : ['author2'])(
    '%s reads nothing of earlier moments that they may not see now, and something of them',
    async (account) => {
      const seen = await library.seenBy(account, [roleOf(account)]);
      const moments = await rows<{ at: Date }>(
        server.context.db,
        `SELECT DISTINCT v.at FROM versions v JOIN documents d ON d.id = v.document_id
         WHERE d.library_id = :id ORDER BY v.at`,
        { id: library.id },
      );
      const told = [];
      for (const share of wide ? [0.2, 0.4, 0.6, 0.8, 1] : [0.6]) {
        const asOf = moments[Math.ceil(share * moments.length) - 1]?.at.toISOString() ?? '';
        const { leaks, all } = await crawl(library, account, library.hiddenFrom(seen), { asOf });
        expect(leaks).toEqual([]);
        told.push(all);
      }
      expect(told.some((all) => /mark/.test(all))).toBe(true);
    },
  );
});
