import type { Document, Version } from '@polychron/contract';
import {
  completeRulebook,
  explain,
  roles,
  sightFacts,
  type OwnField,
  type Role,
  type RulebookChoices,
} from '@polychron/core';
import { composeMail } from '../acts/composeMail.ts';
import { rows } from '../store/database.ts';
import { loadDocuments } from '../store/documents.ts';
import { toVersion } from '../store/versions.ts';
import type { TestServer } from './server.ts';

const approval = { on: true, approvers: ['approver', 'approver2'] };

/** A field of the library's own, that says something of one version only. */
const note: OwnField = { name: 'Note', kind: 'text', choices: [], requiredFor: [], administrative: false };

/** A version and the words that nobody may read who does not see it. */
export interface Marked {
  documentId: string;
  number: string;
  id: string;
  label: string;
  marks: ReadonlySet<string>;
  subjects: readonly string[];
  /** Whether there is content to be read. */
  readable: boolean;
  /** Whether lists leave its document out, since it is void. */
  voided: boolean;
}

/** A library whose documents stand in every state, each version with words of its own. */
export class MarkedLibrary {
  private constructor(
    private readonly server: TestServer,
    readonly id: string,
    readonly versions: readonly Marked[],
    /** Messages that were made of what people were told. */
    readonly messageIds: readonly string[],
  ) {}

  /** Names of its files, and such as have a document's number in them. */
  get fileNames(): string[] {
    return ['op.docx', ...new Set(this.versions.map(({ number }) => `${number} as it came.docx`))];
  }

  get documentIds(): string[] {
    return [...new Set(this.versions.map(({ documentId }) => documentId))];
  }

  static async make(server: TestServer, rules: RulebookChoices): Promise<MarkedLibrary> {
    const library = await server.library({ fields: [note] });
    const documents = await build(server, library);
    while ((await composeMail(server.context)) > 0);
    const messages = await rows<{ id: string }>(server.context.db, 'SELECT id FROM outbox', {});
    await server.rules(library, { ...rules, approval });
    const versions = await Promise.all(documents.map(({ id }) => marksOf(server, id)));
    return new MarkedLibrary(
      server,
      library,
      versions.flat(),
      messages.map(({ id }) => id),
    );
  }

  /** The versions a member with these roles sees, as core explains it. */
  async seenBy(account: string, held: readonly Role[]): Promise<Set<string>> {
    const { context } = this.server;
    const viewer = { id: (await this.server.caller(account)).id, roles: new Set(held) };
    const documents = await loadDocuments(context, this.documentIds);
    const rows = await context.models.Version.findAll({ where: { documentId: this.documentIds } });
    const seen = rows.filter((row) => {
      const document = documents.get(row.documentId);
      if (!document) throw new Error('no document');
      return explain(viewer, sightFacts(document, toVersion(row)), completeRulebook(document.rules)).sees;
    });
    return new Set(seen.map(({ id }) => id));
  }

  /** The words that whoever sees these versions may not find anywhere. */
  hiddenFrom(seen: ReadonlySet<string>): string[] {
    const open = new Set(this.versions.filter(({ id }) => seen.has(id)).flatMap(({ marks }) => [...marks]));
    const all = new Set(this.versions.flatMap(({ marks }) => [...marks]));
    return [...all].filter((mark) => !open.has(mark));
  }
}

/** The role an account of a test's library is named after. */
export function roleOf(account: string): Role {
  const role = roles.find((each) => each === account.replace(/\d/, ''));
  if (!role) throw new Error(`${account} is named after no role`);
  return role;
}

/** One document for each kind of life; every text, title, comment and reason has a word that is its own. */
async function build(server: TestServer, library: string): Promise<Document[]> {
  let count = 0;
  const word = (kind: string): string => {
    count += 1;
    return `mark${kind}${count}x`;
  };
  const post = async (account: string, path: string, body: object): Promise<void> => {
    const answer = await (await server.as(account)).post(`/api/v1/documents/${path}`).send(body);
    if (!answer.ok) throw new Error(`${path}: ${answer.text}`);
  };
  const make = async (level: 'minor' | 'major'): Promise<Document> =>
    server.document(library, word('first'), { level, title: word('title') });

  const plain = await make('major');
  const held = await make('major');
  await server.change(held.id, word('draft'));
  await server.change(held.id, word('published'), 'major');
  await (
    await server.as('author')
  )
    .patch(`/api/v1/documents/${held.id}`)
    .send({
      fields: { title: word('title'), subject: [word('folder'), word('within')], Note: word('own') },
      comment: word('comment'),
    })
    .expect(200);
  await post('author', `${held.id}/versions/1.1/thin`, { reason: 'No longer wanted' });
  const draftOnly = await make('minor');
  const scheduled = await make('major');
  await server.change(scheduled.id, word('draft'));
  await post('author', `${scheduled.id}/publish`, {
    comment: word('comment'),
    inForceFrom: new Date(server.now.getTime() + 30 * 86_400_000).toISOString(),
  });
  const inApproval = await make('major');
  await server.change(inApproval.id, word('draft'));
  const rejected = await make('major');
  await server.change(rejected.id, word('draft'));
  const approved = await make('major');
  await server.change(approved.id, word('draft'));
  // Kept to two, though another is asked to read it.
  const limited = await make('major');
  await server.change(limited.id, word('draft'));
  await post('author', `${limited.id}/distribution`, { people: ['author2', 'reader'], groups: [] });
  await (
    await server.as('controller')
  )
    .put(`/api/v1/documents/${limited.id}/limits`)
    .send({ limit: { people: ['reader', 'approver'], groups: [] }, reason: 'Names' })
    .expect(200);
  const voided = await make('major');
  await server.change(voided.id, word('draft'));
  await post('author', `${voided.id}/distribution`, { people: ['reader'], groups: [] });
  await post('controller', `${voided.id}/void`, { reason: word('mistake') });
  await server.rules(library, { approval });
  await post('author', `${rejected.id}/submit`, { comment: word('submitted') });
  await post('approver', `${rejected.id}/decision`, {
    version: '1.1',
    decision: 'reject',
    comment: word('rejected'),
  });
  await post('author', `${approved.id}/submit`, { comment: word('submitted') });
  await post('approver', `${approved.id}/decision`, {
    version: '1.1',
    decision: 'approve',
    comment: word('approved'),
  });
  await post('author', `${held.id}/checkout`, { reason: word('reason') });
  return [plain, limited, voided, held, draftOnly, scheduled, inApproval, rejected, approved];
}

/**
 * Every version of a document with the words it alone brought. What is said of a check-out and of a run
 * belongs to the latest version: whoever sees that one may know it.
 */
async function marksOf(server: TestServer, documentId: string): Promise<Marked[]> {
  const controller = await server.as('controller');
  const address = `/api/v1/documents/${documentId}`;
  const wordsIn = (text: string): string[] => text.match(/mark[a-z]+\d+x/g) ?? [];
  const { body } = await controller.get(`${address}/versions?limit=200`).expect(200);
  const { items } = body as { items: Version[] };
  const document = await controller.get(address);
  const { voided, number } = document.body as Document;
  const told = wordsIn(`${document.text} ${(await controller.get(`${address}/checkout`)).text}`);
  const own = await Promise.all(
    items.map(async (version) => {
      const reading = await controller.get(`${address}/versions/${version.label}/reading`);
      // What was said in approval is for whoever saw that: it is the draft's, not the published version's.
      const { approval: _, ...bare } = version;
      const shown = version.origin.kind === 'publish' ? bare : version;
      const words = wordsIn(`${JSON.stringify(shown)} ${reading.ok ? reading.text : ''}`);
      return { version, words, readable: reading.ok };
    }),
  );
  const said = told.filter((word) => !own.some(({ words }) => words.includes(word)));
  return own.map(({ version: { id, label, sha256, fields }, words, readable }, index) => {
    const marks = new Set([...words, ...(index === 0 ? said : []), id, sha256]);
    const subjects = fields.subject ?? [];
    return { documentId, number, id, label, marks, subjects, readable, voided: voided !== null };
  });
}
