import { libraryThen } from '../reads/asOf.ts';
import { testServer } from '../testing/started.ts';
import { documentsThen } from './pastRegister.ts';

const server = testServer();

/** Numbers of the documents that are looked through for somebody's Register as of a moment. */
async function lookedThrough(account: string, library: string, at: Date): Promise<string[]> {
  const { viewers, rules } = await libraryThen(await server.asker(account), library, at);
  const sought = {
    at,
    then: { viewer: viewers.then, rules: rules.then },
    now: { viewer: viewers.now, rules: rules.now },
  };
  const documents = await documentsThen(server.context, library, sought, { after: '', count: 10 });
  return documents.map(({ number }) => number);
}

test('what somebody did not see then is not even looked at: drafts of a team, documents kept to others', async () => {
  const library = await server.library({ sight: { draft: [] } });
  const draft = await server.document(library, 'draft');
  const kept = await server.document(library, 'kept', { level: 'major' });
  const keptTo = async (account: string): Promise<void> => {
    const controller = await server.as('controller');
    const to = { limit: { people: [account], groups: [] }, reason: 'Names in it' };
    await controller.put(`/api/v1/documents/${kept.id}/limits`).send(to).expect(200);
  };
  await keptTo('approver');
  server.pass(1);
  const before = server.now;
  server.pass(1);
  await keptTo('author2');
  const fields = { fields: { coAuthors: ['author2'] } };
  await (await server.as('author')).patch(`/api/v1/documents/${draft.id}`).send(fields).expect(200);
  server.pass(1);
  expect(await lookedThrough('author2', library, server.now)).toEqual([draft.number, kept.number]);
  expect(await lookedThrough('author2', library, before)).toEqual([]);
  expect(await lookedThrough('author', library, before)).toEqual([draft.number, kept.number]);
});
