import type { OriginKind, Standing, State } from '../document/version.ts';

/** A version as the Strand draws it. Only versions the viewer sees are given, so that no gap shows. */
export interface StrandVersion {
  id: string;
  label: string;
  state: State;
  standing: Standing | null;
  at: Date;
  origin: { kind: OriginKind; from: string | null };
  thinned?: { at: Date; until: Date } | null;
  sheltered?: boolean;
  inForceFrom?: Date | null;
  size?: number;
  /** Words in its text, for how dark a lens is; null where unknown. */
  words?: number | null;
}

/** The approval run about the latest version, as it is drawn. */
export interface StrandApproval {
  versionId: string;
  mode: 'serial' | 'together' | 'anyOne';
  submittedAt: Date;
  decided: readonly boolean[];
}
export interface StrandCustody {
  /** Null where the viewer may not see the base: then no thread is drawn. */
  baseId: string | null;
  since: Date;
  until: Date | null;
  saves: number;
}
export interface StrandInput {
  /** Oldest first. */
  versions: readonly StrandVersion[];
  custody: StrandCustody | null;
  /** Bases of working copies that were set aside and wait to be brought in. */
  setAside?: readonly string[];
  approval?: StrandApproval | null;
  /** Folds that somebody has opened. */
  opened?: ReadonlySet<string>;
  /** The numbers to come, for whoever may check in. */
  toCome: { minor: string | null; major: string } | null;
  now: Date;
  /** Width there is, in CSS pixels. The drawing may be wider when the versions do not fit. */
  width: number;
  /** `slim` is one line, for whoever sees one version only: there is no way between lines to draw. */
  size: 'small' | 'slim' | 'large';
}
