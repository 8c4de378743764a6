import type { FileNameMatches } from '@polychron/contract';
import { driveFileName } from '@polychron/core';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

async function matches(account: string, library: string, name: string): Promise<FileNameMatches> {
  const agent = await server.as(account);
  const answer = await agent.get(`/api/v1/libraries/${library}/file-names`).query({ name }).expect(200);
  return answer.body as FileNameMatches;
}
const told = async (account: string, library: string, name: string): Promise<string[]> =>
  (await matches(account, library, name)).matches.map(
    ({ document, how, label }) => `${document.number} ${label} ${how}`,
  );

/** A document whose file was called otherwise in its first version, and is to be again in a draft. */
async function renamed(library: string) {
  const made = await server.document(library, 'a', { level: 'major', title: 'Rope care' });
  const agent = await server.as('author');
  const checkIn = async (name: string, level: string) => {
    await agent.post(`/api/v1/documents/${made.id}/checkout`).send({}).expect(201);
    await agent
      .post(`/api/v1/documents/${made.id}/checkin`)
      .field('comment', 'Another name')
      .field('level', level)
      .field('confirm', 'other-name')
      .attach('file', docxOf(name), name)
      .expect(201);
  };
  await checkIn('Rope care.docx', 'major');
  await checkIn('Rope care in winter.docx', 'minor');
  return made;
}

test('a file is known by every name that its document’s file had or was given, as far as one sees those versions', async () => {
  const library = await server.library({ readersSeePast: false });
  const { number, id } = await renamed(library);
  const drive = driveFileName({ number, title: 'Rope care', fileName: 'Rope care.docx' });
  for (const name of ['Rope care.docx', 'Rope care (1).docx', `${number} 2.0 Rope care.docx`])
    expect([name, await told('author', library, name)]).toEqual([name, [`${number} 2.0 exactly`]]);
  // The drive names the latest that one sees.
  expect(await told('author', library, drive)).toEqual([`${number} 2.1 exactly`]);
  expect(await told('author', library, 'op.docx')).toEqual([`${number} 1.0 exactly`]);
  expect(await told('author', library, 'Rope care in winter.docx')).toEqual([`${number} 2.1 exactly`]);
  expect(await told('author', library, `Notes on ${number}.docx`)).toEqual([`${number} 2.1 number`]);
  expect(await told('author', library, 'Another.docx')).toEqual([]);
  // Readers see what is in force alone: neither the draft's name nor the one of before leads anywhere.
  expect(await told('reader', library, 'Rope care.docx')).toEqual([`${number} 2.0 exactly`]);
  expect(await told('reader', library, 'Rope care in winter.docx')).toEqual([]);
  expect(await told('reader', library, 'op.docx')).toEqual([]);
  const other = await server.library();
  expect(await told('author', other, 'Rope care.docx')).toEqual([]);
  const controller = await server.as('controller');
  await controller.post(`/api/v1/documents/${id}/void`).send({ reason: 'A mistake' }).expect(200);
  expect(await told('controller', library, 'Rope care.docx')).toEqual([]);
});

test('a name whose accents a file system took apart is the same name', async () => {
  const library = await server.library();
  const agent = await server.as('author');
  const name = 'Pr\u00fcfung der Seile.docx';
  const made = await agent
    .post(`/api/v1/libraries/${library}/documents`)
    .field('fields', JSON.stringify({ title: 'Seile' }))
    .field('comment', 'First')
    .field('level', 'minor')
    .attach('file', docxOf('a'), name);
  const { number } = made.body as { number: string };
  expect(await told('author', library, name.normalize('NFD'))).toEqual([`${number} 0.1 exactly`]);
});

test('where too many files are called so, that is said, and no more than twenty are told', async () => {
  const library = await server.library();
  for (let made = 0; made < 51; made += 1) await server.document(library, 'a');
  const { matches: found, more } = await matches('author', library, 'op.docx');
  expect([found.length, more]).toEqual([20, true]);
});

test('whoever is no member, and a name that is none, are refused', async () => {
  const library = await server.library();
  await server.caller('stranger');
  const stranger = await server.as('stranger');
  const address = `/api/v1/libraries/${library}/file-names`;
  expect((await stranger.get(address).query({ name: 'a' })).body).toMatchObject({
    code: 'library-not-found',
  });
  const agent = await server.as('author');
  expect((await agent.get(address)).status).toBe(422);
  expect((await agent.get(address).query({ name: 'a'.repeat(256) })).status).toBe(422);
});
