import { Sending } from '../../parts/Sending.tsx';
import { DropFile } from '../../ui/DropFile.tsx';
import type { Arriving } from './useArrivals.ts';

/** Where files are put on the Desk, and how far that is; each one's outcome is told. */
export function Arrivals({ take, share, name, refused, cancel }: Arriving) {
  if (!take) return null;
  return (
    <div className="arrivals">
      <DropFile multiple onFiles={take}>
        Put files on your Desk <span className="muted">drop or choose them; nobody else sees them</span>
      </DropFile>
      <Sending share={share} onCancel={cancel}>
        <span>{name}</span>
      </Sending>
      {refused.map((one) => (
        <div key={one.name} className="refusal" role="alert">
          {one.name}: {one.problem}
        </div>
      ))}
    </div>
  );
}
