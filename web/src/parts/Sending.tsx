import { Progress } from 'antd';
import type { ReactNode } from 'react';
import { PlaceInQueue } from './PlaceInQueue.tsx';

interface Props {
  /** The share sent so far, 0 to 1; nothing is drawn while it is null. */
  share: number | null;
  onCancel: () => void;
  /** Which file it is, where several follow one another. */
  children?: ReactNode;
}

/** A file on its way: how far it is, where it stands once it is there, and the way to leave it. */
export function Sending({ share, onCancel, children }: Props) {
  if (share === null) return null;
  return (
    <div className="acts">
      {children}
      <Progress percent={Math.round(share * 100)} size="small" aria-label="Upload" />
      {share === 1 && <PlaceInQueue />}
      <button type="button" className="quiet" onClick={onCancel}>
        Cancel
      </button>
    </div>
  );
}
