import type * as contract from '@polychron/contract';
import { labelIn, refuse, type Version } from '@polychron/core';
import { accessDocument, findContent } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import { Refused } from '../refused.ts';
import { documentAnswer } from './documentView.ts';

/** One document as the caller sees it, with its entity tag. */
export async function readDocument(
  asker: Asker,
  id: string,
): Promise<{ view: contract.Document; tag: string }> {
  return documentAnswer(asker.context, await accessDocument(asker, id));
}

/** The version in force, as far as the caller sees one. @throws Refused `nothing-in-force` */
export async function readInForce(
  asker: Asker,
  id: string,
): Promise<{ access: Access; version: Version; number: string; label: string }> {
  const access = await accessDocument(asker, id);
  const { document } = access;
  const { inForce, number } = document;
  if (inForce && sees(access, inForce)) {
    const version = await findContent(asker, access, inForce.id);
    return { access, version, number, label: labelIn(document, version) };
  }
  throw new Refused(refuse('notFound', 'nothing-in-force', `No version of ${number} is in force.`));
}
