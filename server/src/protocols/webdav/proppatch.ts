import { performSetProperties } from '../../acts/ownPlaces.ts';
import type { DeadProperty } from '../../store/ownPlaces.ts';
import { pathOf, propstat } from './properties.ts';
import { standing, type Visit } from './visit.ts';
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
  writtenToKeep,
  type XmlElement,
} from './xml.ts';

/** One instruction: a property is kept so, or not any more. */
type Instruction = PropertyName & { set: DeadProperty | null };

const xmlNamespace = 'http://www.w3.org/XML/1998/namespace';

/** What a body asks for, in its order (RFC 4918, 9.2). */
function readInstructions(body: string): Instruction[] {
  const root = readXml(body);
  if (!isDav(root, 'propertyupdate')) throw notUnderstood('The body is no DAV:propertyupdate.');
  const instructions = elementsIn(root).flatMap((one) => {
    const isSet = isDav(one, 'set');
    const prop = isSet || isDav(one, 'remove') ? davIn(one, 'prop') : undefined;
    return prop ? elementsIn(prop).map((property) => instructionOf(property, { prop, isSet })) : [];
  });
  if (instructions.length === 0) throw notUnderstood('The body sets and removes nothing.');
  return instructions;
}

function instructionOf(
  property: XmlElement,
  { prop, isSet }: { prop: XmlElement; isSet: boolean },
): Instruction {
  const { namespace, name } = property;
  const said = [...property.attributes, ...prop.attributes].find(
    (one) => one.namespace === xmlNamespace && one.name === 'lang',
  );
  const set = isSet ? { namespace, name, value: writtenToKeep(property), language: said?.value } : null;
  return { namespace, name, set };
}

/** What is kept after instructions are followed. */
const following = (present: readonly DeadProperty[], instructions: readonly Instruction[]): DeadProperty[] =>
  instructions.reduce<DeadProperty[]>(
    (kept, { namespace, name, set }) => [
      ...kept.filter((one) => one.namespace !== namespace || one.name !== name),
      ...(set ? [set] : []),
    ],
    [...present],
  );

/**
 * PROPPATCH (RFC 4918, 9.2): all of it or nothing. Properties are kept with what is one's own; of documents
 * they are the library's fields, which are changed in the page.
 */
export async function proppatch(visit: Visit, body: string): Promise<void> {
  const { asker, res } = visit;
  const place = standing(visit);
  const instructions = readInstructions(body);
  const isRefused = ({ namespace }: PropertyName): boolean => place.kind !== 'own' || namespace === dav;
  const refused = instructions.filter(isRefused);
  if (refused.length === 0)
    await performSetProperties(asker, visit, (present) => following(present, instructions));
  const named = (some: readonly Instruction[]): string => some.map((one) => element(one)).join('');
  const others = instructions.filter((one) => !isRefused(one));
  const told =
    propstat('403 Forbidden', named(refused)) +
    propstat(refused.length === 0 ? '200 OK' : '424 Failed Dependency', named(others));
  const response = davElement('response', davElement('href', textOf(pathOf(place))) + told);
  const multistatus = `<D:multistatus xmlns:D="DAV:">${response}</D:multistatus>`;
  res.status(207).type('application/xml').send(`<?xml version="1.0" encoding="utf-8"?>${multistatus}`);
}
