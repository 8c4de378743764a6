import { formatLabel } from '../rules/numbering.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import type { Decision, DocumentState } from '../acts/state.ts';
import { openEra } from './openEra.ts';

/**
 * What a document goes through when its library's rules change, apart from thinning: leaving `none` opens an
 * era, turning approval off ends an open run, its version a draft again. Null when nothing.
 * @param state the document under the rules before
 */
export function takeUpRules(
  state: DocumentState,
  rules: Rulebook,
  actorId: string,
  now: Date,
): Decision | null {
  if (state.rules.numbering === 'none' && rules.numbering !== 'none') {
    const opened = openEra(state, actorId, rules.numbering, now);
    if (opened) return opened;
  }
  if (!state.approval || rules.approval.on) return null;
  return {
    changes: [
      { kind: 'setState', versionId: state.approval.versionId, state: 'draft' },
      { kind: 'closeRun', outcome: 'rulesChanged', at: now },
    ],
    ledger: {
      act: 'endApproval',
      facts: {
        version: formatLabel(state.latest, state.presentEra),
        why: 'Approval was turned off for the library.',
      },
    },
  };
}
