import type { Document } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { documentQuery } from '../queries.ts';
import { anyLandingOf } from './landing.ts';
import { LandingLabel } from './LandingLabel.tsx';

interface Props {
  document: Document;
  file: File | null;
  /** Whether to say which document it is. */
  named?: boolean;
  onLeave: () => void;
  onDone?: () => void;
}

/** The label of the next version of a document, or why it cannot be made now. */
export function LandingOf({ document: given, file, named = false, onLeave, onDone }: Props) {
  const { data: document = given } = useQuery({ ...documentQuery(given.id), placeholderData: given });
  const landing = anyLandingOf(document);
  const { acts, number, title } = document;
  return (
    <div className="landing-of">
      {named && (
        <p>
          <span className="number doc-number">{number}</span> <bdi>{title}</bdi>
        </p>
      )}
      {landing ? (
        <LandingLabel
          landing={landing}
          level={landing.ways[0]?.level ?? 'major'}
          isChosen={false}
          file={file}
          onLeave={onLeave}
          onDone={onDone}
        />
      ) : (
        <p className="refusal">{acts.checkOut.why ?? acts.checkIn.why}</p>
      )}
    </div>
  );
}
