import { readerOf } from '@polychron/core';

/** The largest text edited in the page, in bytes; larger ones are edited in a program of their own. */
export const largestEdited = 2 << 20;

/** Whether a file is a text that is edited in the page. */
export const canEdit = (mediaType: string, size: number): boolean => readerOf(mediaType) === 'text' && size <= largestEdited;
