/** An act of custody that was asked for in a list, and whose consequences are said beside it. */
export type CustodyAsked = 'giveBack' | 'lift' | 'ownProgram' | null;
