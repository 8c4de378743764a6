import type { Document } from '@polychron/contract';
import { useHotkeys } from 'react-hotkeys-hook';
import { useNavigate } from 'react-router-dom';

interface Keys {
  documents: Document[];
  selected: Document | null;
  /** Selects the document at a place of the list. */
  select: (index: number) => void;
  toggle: (id: string) => void;
  changeFields: (document: Document) => void;
  code: string;
}

/** The keys of the Register: arrows choose, letters act on the row that has the focus. */
export function useRegisterKeys({ documents, selected, select, toggle, changeFields, code }: Keys): void {
  const navigate = useNavigate();
  const step = (by: number): void => {
    const index = documents.findIndex((document) => document.id === selected?.id);
    if (documents.length > 0) select(Math.min(documents.length - 1, Math.max(0, index + by)));
  };
  useHotkeys('down', () => step(1), { preventDefault: true });
  useHotkeys('up', () => step(-1), { preventDefault: true });
  useHotkeys(
    'space',
    () => {
      if (selected && !isOnControl()) toggle(selected.id);
    },
    { preventDefault: () => !isOnControl() },
  );
  // It leads to the button; Enter there checks out.
  useHotkeys('o', () => {
    if (isAt(selected)) document.getElementById(`check-out-${selected.id}`)?.focus();
  });
  useHotkeys(
    'f',
    () => {
      if (isAt(selected) && selected.acts.changeFields.allowed) changeFields(selected);
    },
    { preventDefault: true },
  );
  useHotkeys('enter', () => {
    if (selected && !isOnControl()) void navigate(`/${code}/documents/${selected.id}`);
  });
  useHotkeys('v', () => {
    if (isAt(selected) && selected.inForce && selected.latest.id !== selected.inForce.id)
      void navigate(
        `/${code}/documents/${selected.id}/compare/${selected.inForce.label}/${selected.latest.label}`,
      );
  });
}

/** Gives the focus to a row, once it is laid out: whoever does not see it hears which it is. */
export function focusRow(id: string, tries = 20): void {
  const row = document.getElementById(`row-${id}`);
  if (row) row.focus({ preventScroll: true });
  else if (tries > 0) requestAnimationFrame(() => focusRow(id, tries - 1));
}

/** Whether one is at a document: in its row, or in the panel beside the list. */
const isAt = (selected: Document | null): selected is Document =>
  selected !== null && Boolean(document.activeElement?.closest(`[id="row-${selected.id}"], .panel`));

/** Whether the key belongs to what has the focus: a button or a link is pressed by it. */
const isOnControl = (): boolean => Boolean(document.activeElement?.closest('a,button,input,select'));
