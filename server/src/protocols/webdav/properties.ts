import type { DrivePlace } from '../../reads/drive.ts';
import { type Asked, dav, davElement, element, type PropertyName, textOf } from './xml.ts';

/** The values of a place's properties, as they are written (RFC 4918, 15). */
type Values = Record<string, string>;

const folderValues = (displayed: string): Values => ({
  displayname: textOf(displayed),
  resourcetype: '<D:collection/>',
});

/** The properties of what stands at a place, by name. */
function valuesOf(place: DrivePlace): Values {
  if (place.kind === 'site') return folderValues('Polychron');
  if (place.kind === 'folder') {
    const { library, names } = place;
    const name = names.at(-1);
    return name === undefined
      ? { ...folderValues(library.name), creationdate: library.createdAt.toISOString() }
      : folderValues(name);
  }
  const { file } = place;
  return {
    displayname: textOf(file.title),
    resourcetype: '',
    // RFC 3339 and RFC 9110, 5.6.7: the two ways of writing a moment that the properties have.
    creationdate: file.at.toISOString(),
    getlastmodified: file.at.toUTCString(),
    getcontentlength: String(file.size),
    getcontenttype: textOf(file.mediaType),
    getetag: textOf(`"${file.sha256}"`),
    // Nothing can be locked by this door.
    supportedlock: '',
  };
}

const propstat = (status: string, written: string): string =>
  written === ''
    ? ''
    : davElement('propstat', davElement('prop', written) + davElement('status', `HTTP/1.1 ${status}`));

/** What is told of a place (RFC 4918, 14.24): its properties, and which of those asked for it lacks. */
export function responseOf(href: string, place: DrivePlace, asked: Asked): string {
  const values = valuesOf(place);
  const own = Object.keys(values).map((name): PropertyName => ({ namespace: dav, name }));
  const wanted = asked.kind === 'some' ? asked.properties : own;
  const has = (one: PropertyName): boolean => one.namespace === dav && Object.hasOwn(values, one.name);
  const valueOf = ({ name }: PropertyName): string => (asked.kind === 'names' ? '' : (values[name] ?? ''));
  const told = wanted.filter(has).map((one) => element(one, valueOf(one)));
  const lacking = wanted.filter((one) => !has(one)).map((one) => element(one));
  return davElement(
    'response',
    davElement('href', textOf(href)) +
      (propstat('200 OK', told.join('')) + propstat('404 Not Found', lacking.join('')) ||
        davElement('status', 'HTTP/1.1 200 OK')),
  );
}
