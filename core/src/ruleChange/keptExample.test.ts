import { completeRulebook, type RulebookChoices } from '../rules/rulebook.ts';
import { keptExample } from './keptExample.ts';

const now = new Date('2026-11-10T12:00:00Z');
const exampleOf = (choices: RulebookChoices): string => keptExample(completeRulebook(choices), now);

test('the example says what the limits leave, as they leave it', () => {
  expect(exampleOf({})).toBe('With 5.0 in force, 1.0, 2.0, 3.0, 4.0 stay; 15 of 15 drafts stay.');
  expect(exampleOf({ keep: { published: 2 } })).toBe(
    'With 5.0 in force, 3.0, 4.0 stay and 1.0, 2.0 go; 15 of 15 drafts stay.',
  );
  expect(exampleOf({ keep: { published: 2, drafts: { stay: 'withTheirVersion' } } })).toBe(
    'With 5.0 in force, 3.0, 4.0 stay and 1.0, 2.0 go; 9 of 15 drafts stay.',
  );
  expect(exampleOf({ keep: { published: 0, drafts: { stay: 'untilPublished' } } })).toBe(
    'With 5.0 in force, no other published version stays; 0 of 15 drafts stay.',
  );
  expect(exampleOf({ keep: { drafts: { stay: 'P30D', newest: 2 } } })).toBe(
    'With 5.0 in force, 1.0, 2.0, 3.0, 4.0 stay; 2 of 15 drafts stay.',
  );
});

test('numbers without drafts have none to speak of, and one current version keeps none', () => {
  expect(exampleOf({ numbering: 'whole', keep: { published: 1 } })).toBe(
    'With 5 in force, 4 stays and 1, 2, 3 go.',
  );
  expect(exampleOf({ numbering: 'none' })).toBe('With 5 in force, no other published version stays.');
});
