import type { Document } from '@polychron/contract';
import { changesOf, valuesOf } from './changes.ts';

const person = (account: string): { account: string; name: string } => ({ account, name: account });
const document = {
  fields: {
    ...{ title: 'Line check', type: 'Form', reviewBy: '2027-01-31' },
    ...{ Tower: 4, By: person('author2'), Shelf: 'B2' },
  },
  owner: person('author'),
  coAuthors: [person('author2')],
  approvers: [],
} as unknown as Document;
const given = valuesOf(document);
const nothing = { fields: {}, administrative: {}, people: {} };

test('what was not touched is not sent', () => {
  expect(changesOf(document, given)).toEqual(nothing);
  expect(changesOf(document, { ...given, title: ' Line check ', type: 'Form ' })).toEqual(nothing);
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
    administrative: {},
    people: { owner: 'author2', coAuthors: [] },
  });
});

test('what a form does not show stays as it is', () => {
  const { approvers: _, ...shown } = given;
  expect(changesOf(document, { ...shown, subject: ['Wind'] })).toEqual({
    fields: { subject: ['Wind'] },
    administrative: {},
    people: {},
  });
});

test('fields of the library’s own are sent as they were filled in or emptied, apart from what makes no version', () => {
  expect(given.own).toEqual({ Tower: 4, By: 'author2', Shelf: 'B2' });
  const own = { Tower: null, By: 'author2', Shelf: 'C1', Part: ['Ropes'], Wet: undefined };
  expect(changesOf(document, { ...given, own }, ['Shelf'])).toEqual({
    fields: { Tower: null, Part: ['Ropes'] },
    administrative: { Shelf: 'C1' },
    people: {},
  });
});
