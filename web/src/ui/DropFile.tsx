import './DropFile.css';
import { type ReactNode, useState } from 'react';

interface Props {
  /** What the place is for. */
  children: ReactNode;
  /** Whether several files are taken at once; otherwise the first one dropped. */
  multiple?: boolean;
  disabled?: boolean;
  onFiles: (files: File[]) => void;
}

/** A place where files are dropped, or chosen by a press. */
export function DropFile({ children, multiple = false, disabled = false, onFiles }: Props) {
  const [over, setOver] = useState(false);
  return (
    <label
      className={over ? 'drop-file drop-file-over' : 'drop-file'}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(!disabled);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        if (!disabled) onFiles([...event.dataTransfer.files]);
      }}
    >
      <input
        type="file"
        multiple={multiple}
        className="unseen"
        disabled={disabled}
        onChange={(event) => {
          onFiles([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      <span>{children}</span>
    </label>
  );
}
