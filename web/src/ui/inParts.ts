import * as tus from 'tus-js-client';
import { cancelled, unreachable } from './problems.ts';
import { refusalOf } from './session.ts';

/**
 * How long to wait before each further try after a lost connection, in milliseconds: about an hour in all.
 */
const patience = [500, 1_000, 2_000, 5_000, 10_000, ...Array.from({ length: 120 }, () => 30_000)];

/** A file that is being sent. */
export interface Upload<A> {
  done: Promise<A>;
  cancel(): void;
}

/** Sends a file in parts; answers with the id it is named by in a form. */
export function sendInParts(file: File, onShare?: (share: number) => void): Upload<string> {
  let cancel = (): void => undefined;
  const done = new Promise<string>((resolve, reject) => {
    const sending = new tus.Upload(file, {
      endpoint: '/api/v1/uploads',
      retryDelays: patience,
      metadata: { filename: file.name },
      removeFingerprintOnSuccess: true,
      // Only what nobody answered, or who cannot for a moment, is tried again.
      onShouldRetry: (error) => [0, 423, 502, 503, 504].includes(error.originalResponse?.getStatus() ?? 0),
      onProgress: (sent, total) => onShare?.(sent / total),
      onSuccess: () => resolve(sending.url?.split('/').at(-1) ?? ''),
      onError: (error) => {
        const answer = error instanceof tus.DetailedError ? error.originalResponse : null;
        reject(answer ? refusalOf(answer.getStatus(), answer.getBody()) : unreachable());
      },
    });
    cancel = () => {
      reject(cancelled());
      // What is on the server already goes too; it would go by itself a day later.
      sending.abort(true).catch(() => undefined);
    };
    sending.findPreviousUploads().then(([before]) => {
      if (before) sending.resumeFromPreviousUpload(before);
      sending.start();
    }, reject);
  });
  return { done, cancel: () => cancel() };
}
