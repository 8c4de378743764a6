/** Why a program of ours does not start, in a sentence for whoever started it. */
export class NotStarted extends Error {
  constructor(sentence: string, cause?: unknown) {
    super(sentence, { cause });
    this.name = 'NotStarted';
  }
}
