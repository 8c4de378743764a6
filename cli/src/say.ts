/**
 * What a terminal would obey (ECMA-48, 5.2 to 5.5: C0 without tab and line feed, DEL, C1), and what turns the
 * order of what is read around (Unicode, UAX #9, 2).
 */
const obeyed = /(?![\t\n])\p{Cc}|[\u200e\u200f\u061c\u202a-\u202e\u2066-\u2069]/gu;

/** A text of others with what a terminal would obey as a picture of it (Unicode, Control Pictures). */
export const harmless = (text: string): string =>
  text.replace(obeyed, (sign) => {
    const code = sign.charCodeAt(0);
    if (code < 0x20) return String.fromCharCode(0x2400 + code);
    return code === 0x7f ? '\u2421' : '\ufffd';
  });

/** Prints a line; the one way to, since titles, names, comments and contents come from others. */
export const say = (text: string): void => console.log(harmless(text));
/** Prints a line about what went wrong. */
export const complain = (text: string): void => console.error(harmless(text));
