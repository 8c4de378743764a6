/**
 * A name as a segment of an address, as clients write it: what may stand in one is not encoded (RFC 3986,
 * 3.3: `pchar`), since programs compare an address they are told with their own as it is written.
 */
export const segmentOf = (name: string): string =>
  encodeURIComponent(name).replace(/%(?:2[46BC]|3[ABD]|40)/g, decodeURIComponent);
