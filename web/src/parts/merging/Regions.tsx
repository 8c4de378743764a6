import { compareWords, type MergeChoice, type MergeRegion } from '@polychron/core';
import type { ReactNode } from 'react';
import { Scrolling } from '../../ui/Scrolling.tsx';
import './merging.css';

/** What was chosen for places, by their index. */
export type Choices = Record<number, MergeChoice>;

/** How many places still need a choice. */
export const openIn = (regions: readonly MergeRegion[], choices: Choices): number =>
  regions.filter(({ merged }, index) => merged === null && choices[index] === undefined).length;

const noPictures: PictureOf = { base: () => '', present: () => '', mine: () => '' };

const words = {
  same: '',
  present: 'Only the document changed it',
  mine: 'Only you changed it',
  both: 'Both changed it alike',
  words: 'Both changed it in different places; combined',
  conflict: 'Both changed it',
} as const;
const choiceWords: [MergeChoice, string][] = [
  ['present', 'Present text'],
  ['mine', 'My text'],
  ['both', 'Both'],
  ['base', 'Old text'],
];

/** Stands for pictures where there are words alone. */
const pictureWords = /\[(?:\d+ pictures|picture)\]/g;

/** Pictures of one side of a region. */
function Pictures({ parts = [], of }: { parts: string[] | undefined; of: (part: string) => string }) {
  return parts.map((part) => <img key={part} className="merge-picture" src={of(part)} alt="" />);
}

/** Addresses of the pictures of each side, by their parts. */
export type PictureOf = Record<'base' | 'present' | 'mine', (part: string) => string>;

interface Props {
  regions: readonly MergeRegion[];
  /** What the three sides are: as it was taken, as it is now, one's own. */
  heads: readonly [ReactNode, ReactNode, ReactNode];
  unit: 'paragraph' | 'line';
  /** Left out where there are none. */
  pictureOf?: PictureOf;
  choices: Choices;
  onChoose: (index: number, choice: MergeChoice) => void;
}

/** What changed on both sides, beside what it was, with the choices of each place. */
export function Regions({ regions, heads, unit, pictureOf = noPictures, choices, onChoose }: Props) {
  return (
    <div className="merge" role="region" aria-label="What changed on both sides">
      <div className="merge-row merge-head">
        {heads.map((head, side) => (
          <span key={side}>{head}</span>
        ))}
      </div>
      {regions.map((region, index) => {
        if (region.kind === 'same') {
          const count = sameFrom(regions, index);
          return count === 0 ? null : (
            <p key={index} className="merge-same">
              {count} {unit}
              {count === 1 ? '' : 's'} the same
            </p>
          );
        }
        if (isUnseen(region)) return null;
        const side = (pieces: string[]): string => pieces.join(unit === 'paragraph' ? '\n' : '');
        const beside = (text: string): string =>
          region.pictures ? text.replace(pictureWords, '').trim() : text;
        const base = beside(side(region.base));
        const choice = choices[index];
        const waits = region.merged === null && choice === undefined;
        return (
          <section
            key={index}
            className={waits ? 'merge-region merge-open' : 'merge-region'}
            aria-label={`${words[region.kind]}${waits ? '; needs your choice' : ''}`}
          >
            {region.place && <p className="merge-place">{region.place}</p>}
            <div className="merge-row">
              <Scrolling className="merge-side" label="As you took it">
                {base || (!region.pictures?.base.length && <em>nothing</em>)}
                <Pictures parts={region.pictures?.base} of={pictureOf.base} />
              </Scrolling>
              <Scrolling
                className={taken(region, choice, 'present') ? 'merge-side merge-taken' : 'merge-side'}
                label="As it is now"
              >
                <Changed
                  base={base}
                  text={beside(side(region.present))}
                  pictures={region.pictures?.present}
                />
                <Pictures parts={region.pictures?.present} of={pictureOf.present} />
              </Scrolling>
              <Scrolling
                className={taken(region, choice, 'mine') ? 'merge-side merge-taken' : 'merge-side'}
                label="Your copy"
              >
                <Changed base={base} text={beside(side(region.mine))} pictures={region.pictures?.mine} />
                <Pictures parts={region.pictures?.mine} of={pictureOf.mine} />
              </Scrolling>
            </div>
            {region.kind === 'words' && choice === undefined && region.merged && (
              <p className="merge-words">Combined: {side(region.merged)}</p>
            )}
            <div className="acts">
              <span className="muted">{words[region.kind]}</span>
              {choiceWords
                .filter(([value]) => offered(region, value))
                .map(([value, label]) => (
                  <button
                    key={value}
                    type="button"
                    className={choice === value ? 'chip chip-on' : 'chip'}
                    aria-pressed={choice === value}
                    onClick={() => onChoose(index, value)}
                  >
                    {label}
                  </button>
                ))}
              {region.formattingOnly && (
                <span className="muted">The words are the same; they are formatted differently.</span>
              )}
            </div>
          </section>
        );
      })}
    </div>
  );
}

/** A change nobody sees, such as a mark that moved: there is nothing to look at. */
const isUnseen = ({ kind, base, present, mine, pictures }: MergeRegion): boolean =>
  kind !== 'conflict' && !pictures && base.length + present.length + mine.length === 0;

/** How much is the same from a region on, told once where several such follow each other. */
function sameFrom(regions: readonly MergeRegion[], index: number): number {
  const isPlain = (region: MergeRegion | undefined): boolean =>
    region !== undefined && (region.kind === 'same' || isUnseen(region));
  if (isPlain(regions[index - 1])) return 0;
  let count = 0;
  for (let at = index; isPlain(regions[at]); at += 1) count += regions[at]?.base.length ?? 0;
  return count;
}

/** Where one side left it as it was, that side is no choice of its own. */
function offered(region: MergeRegion, choice: MergeChoice): boolean {
  if (region.kind === 'present' || region.kind === 'mine') return choice === region.kind || choice === 'base';
  return true;
}

function taken({ kind }: MergeRegion, choice: MergeChoice | undefined, side: 'present' | 'mine'): boolean {
  if (choice === undefined) return kind === side || kind === 'both' || kind === 'words';
  return choice === side || choice === 'both';
}

/** A side with what it took out of the base and put in. */
function Changed({
  base,
  text,
  pictures = [],
}: {
  base: string;
  text: string;
  pictures: string[] | undefined;
}) {
  if (text === '' && pictures.length > 0) return null;
  if (text === '') return <em>{base === '' ? 'nothing' : 'taken out'}</em>;
  if (base === '') return <ins>{text}</ins>;
  return compareWords([{ text: base }], [{ text }]).runs.map((run, index) => {
    if (run.status === 'same') return <span key={index}>{run.text}</span>;
    return run.status === 'inserted' ? <ins key={index}>{run.text}</ins> : <del key={index}>{run.text}</del>;
  });
}
