import { isUnnumbered, numberWords } from '@polychron/core';
import type { Level } from '@polychron/core';
import type { Ghost } from '@polychron/core';
import { Popover } from 'antd';
import { type DragEvent, lazy, Suspense, useState } from 'react';
import type { Landing } from './landing.ts';
import './checkIn.css';

// The list of documents does not wait for it.
const LandingLabel = lazy(async () => ({ default: (await import('./LandingLabel.tsx')).LandingLabel }));

interface Props {
  ghosts: readonly Ghost[];
  size: 'small' | 'large';
  landing: Landing;
  /** One of them opens its label. */
  onOpen?: (() => void) | undefined;
}

/**
 * The numbers to come, as places where an edited file is dropped; a press or Enter opens the label without a
 * file.
 */
export function Ghosts({ ghosts, size, landing, onOpen }: Props) {
  const [open, setOpen] = useState<{ level: Level; file: File | null } | null>(null);
  const land = (level: Level, file: File | null): void => {
    setOpen({ level, file });
    onOpen?.();
  };
  const [over, setOver] = useState<Level | null>(null);
  const reach = size === 'large' ? 26 : 13;
  const drop = (event: DragEvent, level: Level): void => {
    event.preventDefault();
    setOver(null);
    land(level, event.dataTransfer.files[0] ?? null);
  };
  return ghosts.map((ghost) => {
    const words = wordsOf(ghost.level, landing.submittedAs);
    return (
      <Popover
        key={ghost.level}
        open={open?.level === ghost.level}
        trigger={[]}
        placement="bottomRight"
        destroyOnHidden
        content={
          <Suspense>
            <LandingLabel
              landing={landing}
              level={ghost.level}
              isChosen
              file={open?.file ?? null}
              onLeave={() => setOpen(null)}
            />
          </Suspense>
        }
      >
        <button
          type="button"
          className={`ghost ghost-${ghost.level} ghost-${size} ${over === ghost.level ? 'ghost-over' : ''}`}
          style={{
            left: ghost.x - reach,
            top: ghost.y - (size === 'large' ? reach : 11),
            width: reach * 2,
            height: size === 'large' ? reach * 2 : 22,
          }}
          aria-label={`Check ${landing.number} in as ${numberWords(ghost.label)}, ${words}`}
          title={`Drop the edited file here to check in as ${numberWords(ghost.label)}, ${words}`}
          onClick={(event) => {
            event.stopPropagation();
            land(ghost.level, null);
          }}
          onDragOver={(event) => {
            event.preventDefault();
            setOver(ghost.level);
          }}
          onDragLeave={() => setOver(null)}
          onDrop={(event) => drop(event, ghost.level)}
        >
          <span className="ghost-ring" />
          <span className="ghost-label">{shortWords(ghost.label)}</span>
        </button>
      </Popover>
    );
  });
}

function wordsOf(level: Level, submittedAs: string | null): string {
  if (level === 'minor') return 'a draft';
  return submittedAs ? `once it is approved; until then it is ${submittedAs}` : 'published and in force';
}

/** A number as it stands beside its mark. */
const shortWords = (label: string): string => (isUnnumbered(label) ? 'current' : label);
