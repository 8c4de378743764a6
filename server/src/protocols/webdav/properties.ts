import { liveLock } from '@polychron/core';
import type { Asker } from '../../access/caller.ts';
import { covers } from '../../acts/ownPlaces.ts';
import type { DriveFile, DrivePlace } from '../../reads/drive.ts';
import { addressOf, addressOfVersion } from '../../reads/drive.ts';
import { deskUse } from '../../store/deskFiles.ts';
import { type OwnLock, ownLocks, type OwnPlace } from '../../store/ownPlaces.ts';
import {
  dav,
  davElement,
  davIn,
  element,
  elementsIn,
  isDav,
  notUnderstood,
  type PropertyName,
  readXml,
  textOf,
  type XmlElement,
} from './xml.ts';
import { fileTag } from './tags.ts';
import { segmentOf } from './segment.ts';

/** Which properties are asked for (RFC 4918, 9.1). */
export type Asked = { kind: 'names' } | { kind: 'all' } | { kind: 'some'; properties: PropertyName[] };

/**
 * What the body of a PROPFIND asks for; nothing: all properties (RFC 4918, 9.1).
 * @throws Refused `malformed-xml`
 */
export function readPropfind(body: string): Asked {
  if (body.trim() === '') return { kind: 'all' };
  const root = readXml(body);
  const prop = isDav(root, 'propfind') ? davIn(root, 'prop') : undefined;
  if (prop) return { kind: 'some', properties: propertiesIn(prop) };
  if (isDav(root, 'propfind') && davIn(root, 'allprop')) return { kind: 'all' };
  if (isDav(root, 'propfind') && davIn(root, 'propname')) return { kind: 'names' };
  throw notUnderstood('The body is no DAV:propfind that asks for allprop, propname or prop.');
}

/** Properties that are asked for at once: each is answered of every file. Programs ask for some fifty. */
const mostAsked = 200;

/** The properties that a body names. @throws Refused `malformed-xml` where they are more than are answered */
export function propertiesIn(prop: XmlElement): PropertyName[] {
  const properties = elementsIn(prop);
  if (properties.length <= mostAsked) return properties;
  throw notUnderstood(`No more than ${mostAsked} properties are answered at once.`);
}

/** For whom, and when, properties are told, with the locks that their programs have on what is their own. */
export interface Telling {
  viewerId: string;
  now: Date;
  locks: readonly OwnLock[];
  /** Bytes that the viewer's Desk keeps, and may keep. */
  room: { used: number; allowed: number };
}

/** What is told to somebody now. */
export async function tellingTo({ context, caller }: Asker): Promise<Telling> {
  const now = context.clock();
  const [locks, { bytes }] = await Promise.all([
    ownLocks(context, caller.id, now),
    deskUse(context, caller.id),
  ]);
  return { viewerId: caller.id, now, locks, room: { used: bytes, allowed: context.deskBytes } };
}

interface Value {
  name: PropertyName;
  /** As it is written, between its tags. */
  value: string;
  attributes?: string;
  /** Told only where it is asked for by name (RFC 4331, 3). */
  onlyAsked?: true;
}

const live = (values: Record<string, string>): Value[] =>
  Object.entries(values).map(([name, value]) => ({ name: { namespace: dav, name }, value }));

const folderValues = (displayed: string, createdAt?: Date): Value[] =>
  live({
    displayname: textOf(displayed),
    resourcetype: '<D:collection/>',
    ...(createdAt ? { creationdate: createdAt.toISOString() } : {}),
  });

const fileValues = (file: {
  title: string;
  at: Date;
  createdAt: Date;
  size: number;
  mediaType: string;
  sha256: string;
}): Value[] =>
  live({
    displayname: textOf(file.title),
    resourcetype: '',
    // RFC 3339 and RFC 9110, 5.6.7: the two ways of writing a moment that the properties have.
    creationdate: file.createdAt.toISOString(),
    getlastmodified: file.at.toUTCString(),
    getcontentlength: String(file.size),
    getcontenttype: textOf(file.mediaType),
    getetag: textOf(fileTag(file.sha256)),
  });

const entry = (scope: string): string =>
  davElement('lockentry', davElement('lockscope', `<D:${scope}/>`) + davElement('locktype', '<D:write/>'));

/** A lock as it is told (RFC 4918, 14.1). */
export function activeLock(lock: {
  shared: boolean;
  deep: boolean;
  owner: string;
  until: Date | null;
  token: string | null;
  root: string;
  now: Date;
}): string {
  const { shared, deep, owner, until, token, root, now } = lock;
  const seconds = until && Math.max(1, Math.round((until.getTime() - now.getTime()) / 1000));
  return davElement(
    'activelock',
    davElement('locktype', '<D:write/>') +
      davElement('lockscope', shared ? '<D:shared/>' : '<D:exclusive/>') +
      davElement('depth', deep ? 'infinity' : '0') +
      davElement('owner', owner) +
      davElement('timeout', seconds === null ? 'Infinite' : `Second-${seconds}`) +
      (token === null ? '' : davElement('locktoken', davElement('href', textOf(token)))) +
      davElement('lockroot', davElement('href', textOf(root))),
  );
}

/** The address of a place, as links to it are written. */
export const hrefOf = (names: readonly string[], isFolder: boolean): string =>
  `${['/dav', ...names.map(segmentOf)].join('/')}${isFolder ? '/' : ''}`;

const isFolder = (place: DrivePlace): boolean =>
  !['file', 'version'].includes(place.kind) && !(place.kind === 'own' && place.own.file);

/** The address of what stands at a place. */
export const pathOf = (place: DrivePlace): string => hrefOf(addressOf(place), isFolder(place));

/** Who has a document: a program of the viewer's, or somebody else, by whatever door. */
function lockOnFile(place: DriveFile, { viewerId, now }: Telling): string {
  const { custody } = place.file;
  const lock = custody && liveLock(custody, now);
  const mine = custody?.holderId === viewerId;
  if (!custody || (mine && !lock)) return '';
  return activeLock({
    ...{ shared: false, deep: false, root: pathOf(place), now },
    until: lock?.until ?? null,
    owner: mine && lock ? lock.owner : textOf(custody.holder),
    token: mine && lock ? lock.token : null,
  });
}

/**
 * Which version a document is at (RFC 3253, 3.2.1 and 4.2.1), and the report there is (3.1.5). Which one
 * somebody else began from is told where it is the one that is seen.
 */
function versioning(place: DriveFile): Value[] {
  const { custody, versionId } = place.file;
  const version = davElement('href', textOf(hrefOf(addressOfVersion(place), false)));
  const reports = davElement('supported-report', davElement('report', '<D:version-tree/>'));
  return live({
    ...(custody === null ? { 'checked-in': version } : {}),
    ...(custody?.baseId === versionId ? { 'checked-out': version } : {}),
    'supported-report-set': reports,
  }).map((one) => ({ ...one, onlyAsked: true }));
}

/** A lock on something of one's own, as it is told. */
export const ownLockTold = (lock: OwnLock, now: Date): string =>
  activeLock({ ...lock, root: hrefOf(lock.names, false), now });

function ownValues(own: OwnPlace, { locks, now }: Telling): Value[] {
  const { names, file, createdAt, properties } = own;
  const name = names.at(-1) ?? '';
  const values = file
    ? fileValues({ ...file.content, title: name, at: file.changedAt, createdAt })
    : folderValues(name, createdAt);
  const told = locks.filter((lock) => covers(lock, names)).map((lock) => ownLockTold(lock, now));
  return [
    ...values,
    ...live({ lockdiscovery: told.join(''), supportedlock: entry('exclusive') + entry('shared') }),
    ...properties.map(({ namespace, name: called, value, language }) => ({
      name: { namespace, name: called },
      value,
      ...(language ? { attributes: ` xml:lang="${textOf(language)}"` } : {}),
    })),
  ];
}

const quota = ({ room: { used, allowed } }: Telling): Value[] =>
  live({
    'quota-used-bytes': String(used),
    'quota-available-bytes': String(Math.max(0, allowed - used)),
  }).map((value) => ({ ...value, onlyAsked: true }));

/** The properties of what stands at a place. */
function valuesOf(place: DrivePlace, telling: Telling): Value[] {
  switch (place.kind) {
    case 'site':
      return folderValues('Polychron');
    case 'desk':
      return [...folderValues('Desk'), ...quota(telling)];
    case 'own':
      return [...ownValues(place.own, telling), ...(place.own.file ? [] : quota(telling))];
    case 'folder': {
      const { library, names } = place;
      const name = names.at(-1);
      return name === undefined ? folderValues(library.name, library.createdAt) : folderValues(name);
    }
    case 'histories':
      return folderValues('versions', place.library.createdAt);
    case 'history':
      return folderValues(place.document.title);
    case 'version': {
      const { label, title, content, at, author, comment } = place.version;
      // RFC 3253, 3.1 and 3.4.
      const ofVersion = live({
        'version-name': textOf(label),
        'creator-displayname': textOf(author),
        comment: textOf(comment),
      }).map((one) => ({ ...one, onlyAsked: true as const }));
      return [...fileValues({ ...content, title: `${label} ${title}`, at, createdAt: at }), ...ofVersion];
    }
    case 'file': {
      const { file } = place;
      const lock = { lockdiscovery: lockOnFile(place, telling), supportedlock: entry('exclusive') };
      return [...fileValues({ ...file, createdAt: file.at }), ...live(lock), ...versioning(place)];
    }
  }
}

/** Properties of which one status is told (RFC 4918, 14.22); nothing for none. */
export const propstat = (status: string, written: string): string =>
  written === ''
    ? ''
    : davElement('propstat', davElement('prop', written) + davElement('status', `HTTP/1.1 ${status}`));

/** What is told of a place (RFC 4918, 14.24): its properties, and which of those asked for it lacks. */
export function responseOf(place: DrivePlace, asked: Asked, telling: Telling): string {
  const values = valuesOf(place, telling);
  const find = (name: PropertyName): Value | undefined =>
    values.find((one) => one.name.name === name.name && one.name.namespace === name.namespace);
  const isAsked = asked.kind === 'some';
  const wanted = isAsked
    ? asked.properties
    : values.filter(({ onlyAsked }) => !onlyAsked).map(({ name }) => name);
  const told = wanted.flatMap((name) => find(name) ?? []);
  const lacking = wanted.filter((name) => !find(name));
  const written = told.map(({ name, value, attributes }) =>
    asked.kind === 'names' ? element(name) : element(name, value, attributes),
  );
  return davElement(
    'response',
    davElement('href', textOf(pathOf(place))) +
      (propstat('200 OK', written.join('')) +
        propstat('404 Not Found', lacking.map((one) => element(one)).join('')) ||
        davElement('status', 'HTTP/1.1 200 OK')),
  );
}
