import type { Document } from '@polychron/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useEffect, useState } from 'react';

/** So few rows are all laid out: the browser's own search finds every one. */
const fewRows = 150;
/** Rows from the end of what is there at which more are asked for. */
const ahead = 25;
/** Height of a row before it was seen, in pixels. */
const usualHeight = 57;

/** A row that is laid out, and how far down. */
interface Laid {
  document: Document;
  index: number;
  top: number;
  measure: (element: HTMLElement | null) => void;
}

/** Where more of a list comes from. */
interface More {
  hasNextPage: boolean;
  isFetchingNextPage: boolean;
  fetchNextPage: () => Promise<unknown>;
}

/**
 * Lays out the rows of the Register that are in sight, however many there are, and asks for more towards the
 * end.
 * @param element the list's frame, which scrolls
 */
export function useRows(documents: readonly Document[], element: HTMLElement | null, more: More) {
  const [begin, setBegin] = useState(0);
  const placeRows = useCallback((rows: HTMLElement | null) => {
    if (rows) setBegin(rows.offsetTop);
  }, []);
  const all = documents.length <= fewRows;
  const list = useVirtualizer({
    count: documents.length,
    getScrollElement: () => element,
    estimateSize: () => usualHeight,
    getItemKey: (index) => documents[index]?.id ?? index,
    overscan: all ? documents.length : 10,
    scrollMargin: begin,
    scrollPaddingStart: begin,
    useFlushSync: false,
  });
  const last = list.range?.endIndex ?? 0;
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = more;
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage && last >= documents.length - ahead) void fetchNextPage();
  }, [last, documents.length, hasNextPage, isFetchingNextPage, fetchNextPage]);
  return {
    placeRows,
    height: list.getTotalSize(),
    laid: list.getVirtualItems().flatMap(({ index, start }): Laid[] => {
      const document = documents[index];
      return document ? [{ document, index, top: start - begin, measure: list.measureElement }] : [];
    }),
    /** Brings a row into sight. */
    show: (index: number): void => list.scrollToIndex(index, { align: 'auto' }),
  };
}
