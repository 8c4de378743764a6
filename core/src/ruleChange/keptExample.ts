import { type Keepable, limitsAt, versionsToThin, wasPublished } from '../rules/keeping.ts';
import type { Rulebook } from '../rules/rulebook.ts';

const day = 86_400_000;
const publications = 5;
/** Drafts before each publication, where the numbering has drafts, one every ten days. */
const draftsEach = 3;
const spacing = 10 * day;

type Example = Keepable & { label: string };

function lifeOf(stepped: boolean, now: number): Example[] {
  const labels = Array.from({ length: publications }, (_, major) => {
    const drafts = Array.from({ length: draftsEach }, (__, minor) => `${major}.${minor + 1}`);
    return stepped ? [...drafts, `${major + 1}.0`] : [`${major + 1}`];
  }).flat();
  const madeAt = (place: number): number => now - (labels.length - 1 - place) * spacing;
  return labels.map((label, place) => {
    const isDraft = stepped && !label.endsWith('.0');
    const isLatest = place === labels.length - 1;
    const standing = isLatest ? 'inForce' : 'superseded';
    return {
      id: label,
      label,
      state: isDraft ? 'draft' : 'published',
      standing: isDraft ? null : standing,
      madeAt: madeAt(place),
      publishedAt: isDraft ? null : madeAt(place),
      supersededAt: isDraft || isLatest ? null : madeAt(place + (stepped ? draftsEach + 1 : 1)),
      sheltered: false,
      thinned: false,
    };
  });
}

const listed = (versions: readonly Example[]): string => versions.map(({ label }) => label).join(', ');

/**
 * What the limits leave of a document of five publications, in a sentence: "With 5.0 in force, 3.0, 4.0 stay
 * and 1.0, 2.0 go; 6 of 15 drafts stay." Computed by the limits themselves.
 */
export function keptExample(rules: Pick<Rulebook, 'keep' | 'numbering'>, now: Date): string {
  const stepped = rules.numbering === 'stepped';
  const life = lifeOf(stepped, now.getTime());
  const latestId = life.at(-1)?.id ?? '';
  const going = versionsToThin(life, { latestId, baseIds: [] }, limitsAt(rules, now));
  const gone = new Set(going.map(({ id }) => id));
  const past = life.filter((version) => wasPublished(version) && version.id !== latestId);
  const stay = past.filter(({ id }) => !gone.has(id));
  const go = past.filter(({ id }) => gone.has(id));
  const staying =
    stay.length > 0
      ? `${listed(stay)} ${stay.length === 1 ? 'stays' : 'stay'}`
      : 'no other published version stays';
  const leaving =
    go.length > 0 && stay.length > 0 ? ` and ${listed(go)} ${go.length === 1 ? 'goes' : 'go'}` : '';
  const published = `With ${latestId} in force, ${staying}${leaving}`;
  if (!stepped) return `${published}.`;
  const drafts = life.filter((version) => !wasPublished(version));
  const left = drafts.filter(({ id }) => !gone.has(id)).length;
  return `${published}; ${left} of ${drafts.length} drafts stay.`;
}
