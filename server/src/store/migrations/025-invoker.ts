import { heldRoles } from './008-closing.ts';

/**
 * The view asks with the rights of whoever asks it. With those of who made it, a dump that was restored under
 * another account of the database could not be read.
 */
export const invoker = {
  name: '025-invoker',
  statements: [`CREATE OR REPLACE SQL SECURITY INVOKER VIEW held_roles AS ${heldRoles}`],
};
