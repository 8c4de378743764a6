import type { Document } from '@polychron/contract';
import { firstShown } from './firstShown.ts';

const no = { allowed: false, why: 'No.' };
const document = (more: object = {}): Document =>
  ({
    inForce: { id: 'four' },
    latest: { id: 'draft', author: { account: 'author' } },
    custody: null,
    owner: { account: 'owner' },
    coAuthors: [],
    acts: { decide: no, changeFields: no },
    ...more,
  }) as unknown as Document;
const may = { decide: no, changeFields: { allowed: true } };

test.each<[string, string | null, object, string]>([
  ['whoever only reads', 'reader', {}, 'four'],
  ['whoever looks as somebody else', null, { custody: { mine: true }, acts: may }, 'four'],
  ['an author of another draft', 'author2', { acts: may }, 'four'],
  ['who made the draft', 'author', { acts: may }, 'draft'],
  ['who made it, and may not go on with it now', 'author', {}, 'four'],
  ['its owner', 'owner', { acts: may }, 'draft'],
  ['its holder', 'author2', { custody: { mine: true } }, 'draft'],
  ['who is asked to decide', 'approver', { acts: { ...may, decide: { allowed: true } } }, 'draft'],
  ['a reader of what was never in force', 'reader', { inForce: null }, 'draft'],
])('%s', (_, account, more, shown) => {
  expect(firstShown(document(more), account).id).toBe(shown);
});
