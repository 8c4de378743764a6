import type { Comparison } from '@polychron/contract';
import { memo } from 'react';

type Kind = Comparison['changes'][number]['kind'];
interface Mark {
  id: number;
  kind: Kind;
  /** How far down the whole text it stands, 0 to 1. */
  share: number;
}

/** Marks that are told apart down the strip; of more at one height the first is shown. */
const heights = 240;

/** A strip beside the page with a mark for each change, at its height in the whole text. */
export const Overview = memo(function Overview({
  marks,
  onGo,
}: {
  marks: readonly Mark[];
  onGo: (id: number) => void;
}) {
  const shown = new Map<number, Mark>();
  for (const mark of marks) {
    const height = Math.floor(mark.share * heights);
    if (!shown.has(height)) shown.set(height, mark);
  }
  return (
    <div className="overview" aria-hidden="true">
      {[...shown.values()].map((mark) => (
        <button
          key={mark.id}
          type="button"
          tabIndex={-1}
          className={`mark-${mark.kind}`}
          style={{ top: `${mark.share * 100}%` }}
          onClick={() => onGo(mark.id)}
        />
      ))}
    </div>
  );
});
