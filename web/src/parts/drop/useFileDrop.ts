import { type DragEvent, useState } from 'react';

interface Handlers {
  onDragOver?: (event: DragEvent) => void;
  onDragLeave?: (event: DragEvent) => void;
  onDrop?: (event: DragEvent) => void;
}

/**
 * Takes files that are dropped anywhere on an element; what lies inside it and takes them itself comes first.
 * @returns whether files are over it and not over such a place inside, and its handlers
 */
export function useFileDrop(take: ((files: File[]) => void) | null): { over: boolean; handlers: Handlers } {
  const [over, setOver] = useState(false);
  if (!take) return { over: false, handlers: {} };
  return {
    over,
    handlers: {
      onDragOver: (event) => {
        if (!event.dataTransfer.types.includes('Files')) return;
        setOver(!event.defaultPrevented);
        event.preventDefault();
      },
      onDragLeave: (event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      },
      onDrop: (event) => {
        setOver(false);
        if (event.defaultPrevented || event.dataTransfer.files.length === 0) return;
        event.preventDefault();
        take([...event.dataTransfer.files]);
      },
    },
  };
}
