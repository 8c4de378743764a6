import { formatLabel } from '../rules/numbering.ts';
import { completeRulebook, type RulebookChoices } from '../rules/rulebook.ts';
import { rulebookParts, sampleLife } from './sample.ts';

const labelsOf = (rules: RulebookChoices): string[] => {
  const last = sampleLife(completeRulebook(rules)).at(-1);
  return (last?.versions ?? []).map((version) => formatLabel(version, version.era));
};

test('lives the default rules: registered, published, changed, published', () => {
  const steps = sampleLife(completeRulebook({}));
  expect(steps[0]?.text).toBe('A new document starts at 0.1.');
  expect(steps.at(-1)?.custody?.holderName).toBe('The author');
  expect(labelsOf({})).toEqual(['0.1', '1.0', '1.1', '1.2', '2.0', '2.1', '3.0', '3.1', '3.2', '4.0']);
  expect(
    steps.every(({ acts }) => Object.keys(acts).every((part) => rulebookParts.includes(part as never))),
  ).toBe(true);
});

test('thinning shows in the step that causes it', () => {
  const steps = sampleLife(completeRulebook({ keep: { drafts: { stay: 'untilPublished' } } }));
  const step = steps.find(({ acts }) => acts.kept);
  expect(step?.text).toBe(
    'The author publishes 1.0. 0.1 is thinned: Drafts go when the version they led to is published.',
  );
  expect(step?.acts.kept).toEqual(['v1']);
});

test('approval asks the approvers before anything is published', () => {
  const texts = sampleLife(completeRulebook({ approval: { on: true, publishing: 'byOwner' } })).map(
    ({ text }) => text,
  );
  expect(texts).toContain('0.1 is submitted; the first approver decides. Readers still see nothing.');
  expect(texts).toContain(
    'The second approver approves: 0.1 is approved and waits for its owner to publish it.',
  );
  expect(texts).toContain('The owner publishes 1.0.');
});

test.each<RulebookChoices>([
  { numbering: 'whole' },
  { numbering: 'none' },
  { numbering: 'whole', approval: { on: true, mode: 'together' } },
  { numbering: 'none', approval: { on: true } },
  { custody: 'optional' },
  { saves: 'drafts' },
  { sight: { inApproval: [] }, approval: { on: true } },
  { custodyDays: null },
  { allowanceBytes: 1, maxFileBytes: 1 },
])('the sample lives under %j', (rules) => {
  expect(sampleLife(completeRulebook(rules)).length).toBeGreaterThan(8);
});
test('under none only the current content stays', () => {
  expect(
    sampleLife(completeRulebook({ numbering: 'none' }))
      .at(-1)
      ?.versions.filter(({ thinned }) => !thinned),
  ).toHaveLength(1);
});
