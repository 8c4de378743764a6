import { expect, test } from '@jest/globals';
import type { Document } from '@polychron/contract';
import { changesOf, valuesOf } from './changes.ts';

const person = (account: string): { account: string; name: string } => ({ account, name: account });
const document = {
  latest: { fields: { title: 'Line check', type: 'Form', reviewBy: '2027-01-31' } },
  owner: person('author'),
  coAuthors: [person('author2')],
  approvers: [],
} as unknown as Document;
const given = valuesOf(document);

test('what was not touched is not sent', () => {
  expect(changesOf(document, given)).toEqual({ fields: {}, people: {} });
  expect(changesOf(document, { ...given, title: ' Line check ', type: 'Form ' })).toEqual({
    fields: {},
    people: {},
  });
});

test('fields that were changed or emptied are, and people apart from them', () => {
  const changed = {
    ...given,
    title: 'Line checks',
    type: '',
    reviewBy: null,
    owner: 'author2',
    coAuthors: [],
  };
  expect(changesOf(document, changed)).toEqual({
    fields: { title: 'Line checks', type: null, reviewBy: null },
    people: { owner: 'author2', coAuthors: [] },
  });
});

test('what a form does not show stays as it is', () => {
  const { approvers: _, ...shown } = given;
  expect(changesOf(document, { ...shown, subject: ['Wind'] })).toEqual({
    fields: { subject: ['Wind'] },
    people: {},
  });
});
