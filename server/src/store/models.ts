import {
  DataTypes,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Model,
  type ModelStatic,
  type Sequelize,
} from 'sequelize';
import type {
  ApprovalDecision,
  ApprovalMode,
  CustodyEnd,
  Door,
  Fields,
  OwnValues,
  Notice,
  Numbering,
  OriginKind,
  Role,
  Rulebook,
  RunOutcome,
  Standing,
  State,
} from '@polychron/core';

/** A row as its columns; creation may leave nullable ones out. */
type Row<T extends Model> = Model<InferAttributes<T>, InferCreationAttributes<T>>;

export interface PersonRow extends Row<PersonRow> {
  id: string;
  account: string;
  name: string;
  passwordHash: string;
  systemAdministrator: boolean;
  createdAt: Date;
  /** Null while the account is open. */
  closedAt: CreationOptional<Date | null>;
}
export interface SessionRow extends Row<SessionRow> {
  id: string;
  tokenHash: string;
  personId: string;
  createdAt: Date;
  expiresAt: Date;
}
/** What a token may: only read, or everything its owner may. */
export type TokenScope = 'read' | 'work';
export interface TokenRow extends Row<TokenRow> {
  id: string;
  tokenHash: string;
  personId: string;
  name: string;
  createdAt: Date;
  lastUsedAt: Date | null;
  scope: TokenScope;
  /** Null: without end. */
  untilAt: Date | null;
}
export interface LibraryRow extends Row<LibraryRow> {
  id: string;
  code: string;
  name: string;
  purpose: string;
  rulebookRevision: number;
  createdAt: Date;
  closedAt: CreationOptional<Date | null>;
}
export interface RulebookRevisionRow extends Row<RulebookRevisionRow> {
  libraryId: string;
  revision: number;
  rulebook: Rulebook;
  personId: string;
  at: Date;
  reason: string;
}
export interface MemberRow extends Row<MemberRow> {
  libraryId: string;
  personId: string;
  role: Role;
}
export interface DocumentRow extends Row<DocumentRow> {
  id: string;
  libraryId: string;
  number: string;
  ownerId: string;
  coAuthorIds: string[];
  approverIds: CreationOptional<string[]>;
  /** Values of fields that belong to no version. */
  administrative: CreationOptional<OwnValues>;
  /** The type of documents that begin as a copy of it. */
  templateFor: CreationOptional<string | null>;
  voidedAt: CreationOptional<Date | null>;
  voidedBy: CreationOptional<string | null>;
  voidedReason: CreationOptional<string | null>;
  createdAt: Date;
}
export interface VersionRow extends Row<VersionRow> {
  id: string;
  documentId: string;
  sequence: number;
  era: number;
  major: number;
  minor: number;
  numbering: Numbering;
  state: State;
  standing: Standing | null;
  authorId: string;
  at: Date;
  comment: string;
  originKind: OriginKind;
  originFrom: string | null;
  sha256: string;
  size: number;
  fileName: string;
  mediaType: string;
  words: number | null;
  fields: Fields;
  sheltered: CreationOptional<boolean>;
  withdrawnAt: CreationOptional<Date | null>;
  withdrawnWhy: CreationOptional<string | null>;
  thinnedAt: CreationOptional<Date | null>;
  thinnedUntil: CreationOptional<Date | null>;
  thinnedWhy: CreationOptional<string | null>;
  inForceFrom: Date | null;
  supersededAt: CreationOptional<Date | null>;
  /** Words the version is found by: written, and asked for by queries only. */
  foundBy: CreationOptional<string>;
}
export interface HeadRow extends Row<HeadRow> {
  documentId: string;
  libraryId: string;
  latestId: string;
  inForceId: string | null;
  presentEra: number;
  highestMajor: number;
  highestMinor: number;
  lastSequence: number;
  /** Bytes of the content that is kept of the document. */
  bytesKept: CreationOptional<number>;
}
export interface CheckoutRow extends Row<CheckoutRow> {
  documentId: string;
  holderId: string;
  since: Date;
  untilAt: Date | null;
  reason: string | null;
  baseId: string;
  door: Door;
  lockToken: CreationOptional<string | null>;
  lockOwner: CreationOptional<string | null>;
  lockUntil: CreationOptional<Date | null>;
  askedAt: CreationOptional<Date | null>;
}
export interface SaveRow extends Row<SaveRow> {
  documentId: string;
  position: number;
  at: Date;
  sha256: string;
  size: number;
  fileName: string;
  mediaType: string;
  words: number | null;
  sitting: CreationOptional<string | null>;
}
export interface CustodyPeriodRow extends Row<CustodyPeriodRow> {
  id: CreationOptional<number>;
  documentId: string;
  holderId: string;
  since: Date;
  untilAt: Date | null;
  reason: string | null;
  baseId: string;
  door: CreationOptional<Door>;
  endedAt: CreationOptional<Date | null>;
  how: CreationOptional<CustodyEnd | null>;
  endedBy: CreationOptional<string | null>;
  endReason: CreationOptional<string | null>;
  versionId: CreationOptional<string | null>;
}
export const deskFileKinds = ['arrival', 'looseCopy', 'setAside'] as const;
export type DeskFileKind = (typeof deskFileKinds)[number];
export interface DeskFileRow extends Row<DeskFileRow> {
  id: string;
  personId: string;
  kind: DeskFileKind | 'temporary';
  documentId: string | null;
  baseId: string | null;
  createdAt: Date;
  changedAt: Date;
  sha256: string;
  size: number;
  fileName: string;
  mediaType: string;
  words: number | null;
  reason: CreationOptional<string | null>;
  byId: CreationOptional<string | null>;
  forLibraryId: CreationOptional<string | null>;
  /** What is known of the document it is to be, as it was sent. */
  forFields: CreationOptional<string | null>;
}
export interface DeskSaveRow extends Row<DeskSaveRow> {
  fileId: string;
  position: number;
  at: Date;
  sha256: string;
  size: number;
  fileName: string;
  mediaType: string;
  words: number | null;
}
export type NoticeKind = Notice['kind'] | 'overdue';
export interface NoticeRow extends Row<NoticeRow> {
  id: CreationOptional<number>;
  personId: string;
  about: string;
  kind: NoticeKind;
  documentId: string;
  at: Date;
  facts: Record<string, string | null>;
  readAt: CreationOptional<Date | null>;
  /** Whether it was mailed, or is not to be. */
  mailed: CreationOptional<boolean>;
}
export interface LedgerRow extends Row<LedgerRow> {
  id: CreationOptional<number>;
  chain: string;
  sequence: number;
  libraryId: string | null;
  documentId: string | null;
  personId: string | null;
  at: Date;
  act: string;
  facts: Record<string, unknown>;
  hash: string;
}

export interface GroupRow extends Row<GroupRow> {
  id: string;
  name: string;
  createdAt: Date;
}
export interface GroupPersonRow extends Row<GroupPersonRow> {
  groupId: string;
  personId: string;
}
export interface GroupMemberRow extends Row<GroupMemberRow> {
  libraryId: string;
  groupId: string;
  role: Role;
}
export interface ApprovalRunRow extends Row<ApprovalRunRow> {
  id: string;
  documentId: string;
  versionId: string;
  openDocumentId: string | null;
  mode: ApprovalMode;
  submitterId: string;
  submittedAt: Date;
  comment: string;
  inForceFrom: Date | null;
  endedAt: CreationOptional<Date | null>;
  outcome: CreationOptional<RunOutcome | null>;
}
export interface ApprovalPostRow extends Row<ApprovalPostRow> {
  runId: string;
  position: number;
  personId: string;
  decision: ApprovalDecision | null;
  decidedAt: Date | null;
  comment: string;
  inPlace: CreationOptional<boolean>;
}
export type JobState = 'queued' | 'running' | 'done' | 'superseded' | 'failed';
export interface JobRow extends Row<JobRow> {
  id: string;
  kind: 'thinning' | 'handOver';
  /** Of a thinning: the library, and the rules it was called for by. */
  libraryId: CreationOptional<string | null>;
  revision: CreationOptional<number | null>;
  /** Of a handing over: whose charges, to whom, by whom. */
  fromId: CreationOptional<string | null>;
  toId: CreationOptional<string | null>;
  byId: CreationOptional<string | null>;
  state: JobState;
  done: CreationOptional<number>;
  total: CreationOptional<number | null>;
  thinnedVersions: CreationOptional<number>;
  thinnedBytes: CreationOptional<number>;
  problem: CreationOptional<string | null>;
  createdAt: Date;
  aliveAt: CreationOptional<Date | null>;
  endedAt: CreationOptional<Date | null>;
}

export interface Models {
  Person: ModelStatic<PersonRow>;
  Session: ModelStatic<SessionRow>;
  Token: ModelStatic<TokenRow>;
  Library: ModelStatic<LibraryRow>;
  RulebookRevision: ModelStatic<RulebookRevisionRow>;
  Member: ModelStatic<MemberRow>;
  Document: ModelStatic<DocumentRow>;
  Version: ModelStatic<VersionRow>;
  Head: ModelStatic<HeadRow>;
  Checkout: ModelStatic<CheckoutRow>;
  Save: ModelStatic<SaveRow>;
  Ledger: ModelStatic<LedgerRow>;
  Group: ModelStatic<GroupRow>;
  GroupPerson: ModelStatic<GroupPersonRow>;
  GroupMember: ModelStatic<GroupMemberRow>;
  ApprovalRun: ModelStatic<ApprovalRunRow>;
  ApprovalPost: ModelStatic<ApprovalPostRow>;
  Job: ModelStatic<JobRow>;
  CustodyPeriod: ModelStatic<CustodyPeriodRow>;
  DeskFile: ModelStatic<DeskFileRow>;
  DeskSave: ModelStatic<DeskSaveRow>;
  Notice: ModelStatic<NoticeRow>;
}

const id = { type: DataTypes.CHAR(36), primaryKey: true };
const ref = { type: DataTypes.CHAR(36), allowNull: false };
const maybeRef = { type: DataTypes.CHAR(36), allowNull: true };
const time = { type: DataTypes.DATE(3), allowNull: false };
const maybeTime = { type: DataTypes.DATE(3), allowNull: true };
const whole = { type: DataTypes.INTEGER, allowNull: false };
const big = { type: DataTypes.BIGINT, allowNull: false };
const word = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const maybeText = { type: DataTypes.TEXT, allowNull: true };
const sha = { type: DataTypes.CHAR(64), allowNull: false };
const contentColumns = {
  sha256: sha,
  size: big,
  fileName: word(255),
  mediaType: word(150),
  words: { type: DataTypes.INTEGER, allowNull: true },
};

/** A JSON column: MariaDB keeps JSON as text, so values are turned on the way. */
const json = (name: string) => ({
  type: DataTypes.TEXT('long'),
  allowNull: false,
  get(this: Model): unknown {
    return parseJson(this.getDataValue(name));
  },
  set(this: Model, value: unknown) {
    this.setDataValue(name, JSON.stringify(value));
  },
});
/** Reads a JSON column that came as text, from a model or a plain query. */
export function parseJson<T>(value: unknown): T {
  return (typeof value === 'string' ? JSON.parse(value) : value) as T;
}

/** Sequelize writes into the descriptions it is given, so each column needs its own. */
const copyEach = (attributes: object): object =>
  Object.fromEntries(Object.entries(attributes).map(([name, column]) => [name, { ...(column as object) }]));

/** Binds the tables to a connection. The tables themselves are made by the migrations. */
export function defineModels(db: Sequelize): Models {
  const define = <M extends Model>(
    name: string,
    tableName: string,
    attributes: object,
    unread: string[] = [],
  ): ModelStatic<M> => {
    const options = { tableName, defaultScope: { attributes: { exclude: unread } } };
    return db.define(name, copyEach(attributes) as never, options) as unknown as ModelStatic<M>;
  };
  return {
    Person: define('Person', 'people', {
      id,
      account: word(60),
      name: word(300),
      passwordHash: word(200),
      systemAdministrator: { type: DataTypes.BOOLEAN, allowNull: false },
      createdAt: time,
      closedAt: maybeTime,
    }),
    Session: define('Session', 'sessions', {
      tokenHash: { ...sha, primaryKey: true },
      id: ref,
      personId: ref,
      createdAt: time,
      expiresAt: time,
    }),
    Token: define('Token', 'tokens', {
      id,
      tokenHash: sha,
      personId: ref,
      name: word(300),
      createdAt: time,
      lastUsedAt: maybeTime,
      scope: word(8),
      untilAt: maybeTime,
    }),
    Library: define('Library', 'libraries', {
      id,
      code: word(10),
      name: word(300),
      purpose: { type: DataTypes.TEXT, allowNull: false },
      rulebookRevision: whole,
      createdAt: time,
      closedAt: maybeTime,
    }),
    RulebookRevision: define('RulebookRevision', 'rulebook_revisions', {
      libraryId: { ...ref, primaryKey: true },
      revision: { ...whole, primaryKey: true },
      rulebook: json('rulebook'),
      personId: ref,
      at: time,
      reason: { type: DataTypes.TEXT, allowNull: false },
    }),
    Member: define('Member', 'members', {
      libraryId: { ...ref, primaryKey: true },
      personId: { ...ref, primaryKey: true },
      role: { ...word(20), primaryKey: true },
    }),
    Document: define('Document', 'documents', {
      id,
      libraryId: ref,
      number: word(40),
      ownerId: ref,
      coAuthorIds: json('coAuthorIds'),
      approverIds: { ...json('approverIds'), defaultValue: '[]' },
      administrative: { ...json('administrative'), defaultValue: '{}' },
      templateFor: { type: DataTypes.STRING(60), allowNull: true },
      voidedAt: { ...time, allowNull: true },
      voidedBy: { ...ref, allowNull: true },
      voidedReason: { type: DataTypes.TEXT, allowNull: true },
      createdAt: time,
    }),
    Version: define(
      'Version',
      'versions',
      {
        id,
        documentId: ref,
        sequence: whole,
        era: whole,
        major: whole,
        minor: whole,
        numbering: word(10),
        state: word(12),
        standing: { type: DataTypes.STRING(12), allowNull: true },
        authorId: ref,
        at: time,
        comment: { type: DataTypes.TEXT, allowNull: false },
        originKind: word(12),
        originFrom: maybeRef,
        sha256: sha,
        size: big,
        fileName: word(255),
        mediaType: word(150),
        words: { type: DataTypes.INTEGER, allowNull: true },
        fields: json('fields'),
        sheltered: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
        withdrawnAt: maybeTime,
        withdrawnWhy: maybeText,
        thinnedAt: maybeTime,
        thinnedUntil: maybeTime,
        thinnedWhy: maybeText,
        inForceFrom: maybeTime,
        supersededAt: maybeTime,
        foundBy: { type: DataTypes.TEXT, allowNull: false, defaultValue: '' },
      },
      ['foundBy'],
    ),
    Head: define('Head', 'heads', {
      documentId: { ...ref, primaryKey: true },
      libraryId: ref,
      latestId: ref,
      inForceId: maybeRef,
      presentEra: whole,
      highestMajor: whole,
      highestMinor: whole,
      lastSequence: whole,
      bytesKept: { ...big, defaultValue: 0 },
    }),
    Checkout: define('Checkout', 'checkouts', {
      documentId: { ...ref, primaryKey: true },
      holderId: ref,
      since: time,
      untilAt: maybeTime,
      reason: maybeText,
      baseId: ref,
      door: word(12),
      lockToken: maybeText,
      lockOwner: maybeText,
      lockUntil: maybeTime,
      askedAt: maybeTime,
    }),
    Save: define('Save', 'saves', {
      documentId: { ...ref, primaryKey: true },
      position: { ...whole, primaryKey: true },
      at: time,
      sha256: sha,
      size: big,
      fileName: word(255),
      mediaType: word(150),
      words: { type: DataTypes.INTEGER, allowNull: true },
      sitting: { type: DataTypes.STRING(40), allowNull: true },
    }),
    CustodyPeriod: define('CustodyPeriod', 'custody_periods', {
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      documentId: ref,
      holderId: ref,
      since: time,
      untilAt: maybeTime,
      reason: maybeText,
      baseId: ref,
      door: { ...word(12), defaultValue: 'web' },
      endedAt: maybeTime,
      how: { type: DataTypes.STRING(12), allowNull: true },
      endedBy: maybeRef,
      endReason: maybeText,
      versionId: maybeRef,
    }),
    DeskFile: define('DeskFile', 'desk_files', {
      id,
      personId: ref,
      kind: word(12),
      documentId: maybeRef,
      baseId: maybeRef,
      createdAt: time,
      changedAt: time,
      ...contentColumns,
      reason: maybeText,
      byId: maybeRef,
      forLibraryId: maybeRef,
      forFields: maybeText,
    }),
    DeskSave: define('DeskSave', 'desk_saves', {
      fileId: { ...ref, primaryKey: true },
      position: { ...whole, primaryKey: true },
      at: time,
      ...contentColumns,
    }),
    Notice: define('Notice', 'notices', {
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      personId: ref,
      about: word(120),
      kind: word(24),
      documentId: ref,
      at: time,
      facts: json('facts'),
      readAt: maybeTime,
      mailed: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    }),
    Ledger: define('Ledger', 'ledger', {
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      chain: word(40),
      sequence: whole,
      libraryId: maybeRef,
      documentId: maybeRef,
      personId: maybeRef,
      at: time,
      act: word(40),
      facts: json('facts'),
      hash: sha,
    }),
    Group: define('Group', 'person_groups', { id, name: word(120), createdAt: time }),
    GroupPerson: define('GroupPerson', 'group_people', {
      groupId: { ...ref, primaryKey: true },
      personId: { ...ref, primaryKey: true },
    }),
    GroupMember: define('GroupMember', 'group_members', {
      libraryId: { ...ref, primaryKey: true },
      groupId: { ...ref, primaryKey: true },
      role: { ...word(20), primaryKey: true },
    }),
    ApprovalRun: define('ApprovalRun', 'approval_runs', {
      id,
      documentId: ref,
      versionId: ref,
      openDocumentId: maybeRef,
      mode: word(10),
      submitterId: ref,
      submittedAt: time,
      comment: { type: DataTypes.TEXT, allowNull: false },
      inForceFrom: maybeTime,
      endedAt: maybeTime,
      outcome: { type: DataTypes.STRING(15), allowNull: true },
    }),
    ApprovalPost: define('ApprovalPost', 'approval_posts', {
      runId: { ...ref, primaryKey: true },
      position: { ...whole, primaryKey: true },
      personId: ref,
      decision: { type: DataTypes.STRING(10), allowNull: true },
      decidedAt: maybeTime,
      comment: { type: DataTypes.TEXT, allowNull: false },
      inPlace: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    }),
    Job: define('Job', 'jobs', {
      id,
      libraryId: maybeRef,
      kind: word(15),
      revision: { type: DataTypes.INTEGER, allowNull: true },
      fromId: maybeRef,
      toId: maybeRef,
      byId: maybeRef,
      state: word(12),
      done: { ...whole, defaultValue: 0 },
      total: { type: DataTypes.INTEGER, allowNull: true },
      thinnedVersions: { ...whole, defaultValue: 0 },
      thinnedBytes: { ...big, defaultValue: 0 },
      problem: maybeText,
      createdAt: time,
      aliveAt: maybeTime,
      endedAt: maybeTime,
    }),
  };
}
