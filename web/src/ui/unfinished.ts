import { createStore, del, entries, set as keep } from 'idb-keyval';
import { useEffect, useRef } from 'react';
import { create } from 'zustand';
import { useSession } from './session.ts';

/** A form that somebody began to fill in and has not sent. */
export interface Unfinished {
  /** Names the form and what it is about, among those of the account. */
  key: string;
  account: string;
  /** When it was last changed, an ISO 8601 instant. */
  at: string;
  /** The address of the page it belongs to, and what it would come to: "Publish OP-014 4.2 as 5.0". */
  path: string;
  words: string;
  /** What was typed, for whoever looks whether it is still wanted. */
  typed: string;
  value: unknown;
}

interface Store {
  /** Whose forms are here; null until they are read. */
  account: string | null;
  forms: ReadonlyMap<string, Unfinished>;
  /** Forms that are on the screen just now. */
  shown: ReadonlySet<string>;
  /** Whether this browser keeps nothing: forms live as long as the page. */
  keepsNothing: boolean;
}

const onDevice = createStore('polychron-unfinished', 'forms');
const idOf = ({ account, key }: Pick<Unfinished, 'account' | 'key'>): string => `${account} ${key}`;

export const useUnfinishedForms = create<Store>()(() => ({
  account: null,
  forms: new Map(),
  shown: new Set(),
  keepsNothing: false,
}));
const { getState, setState } = useUnfinishedForms;

/** Reads what an account left unfinished on this device. */
export async function readUnfinished(account: string): Promise<void> {
  const all = await entries<string, Unfinished>(onDevice).catch((error: unknown) => {
    console.error('This browser keeps nothing', error);
    setState({ keepsNothing: true });
    return [];
  });
  const own = all.flatMap(([, form]) => (form.account === account ? [[form.key, form] as const] : []));
  setState({ account, forms: new Map(own) });
}

/** Keeps a form as it is now. */
function keepForm(form: Omit<Unfinished, 'account' | 'at' | 'path'>): void {
  const { account } = getState();
  const { pathname, search } = window.location;
  hold({
    ...form,
    account: account ?? useSession.getState().account ?? '',
    at: new Date().toISOString(),
    path: `${pathname}${search}`,
  });
}

function hold(form: Unfinished): void {
  setState({ forms: new Map(getState().forms).set(form.key, form) });
  if (getState().keepsNothing) return;
  void keep(idOf(form), { ...form, value: withoutLargeFiles(form.value) }, onDevice);
}

/** Files that are kept on the device too, in bytes; a larger one is chosen again. */
const largestFile = 100 << 20;

function withoutLargeFiles(value: unknown): unknown {
  if (value instanceof Blob) return value.size > largestFile ? undefined : value;
  if (Array.isArray(value)) return value.map(withoutLargeFiles).filter((one) => one !== undefined);
  if (typeof value !== 'object' || value === null) return value;
  const kept = Object.entries(value).map(([name, of]) => [name, withoutLargeFiles(of)] as const);
  return Object.fromEntries(kept.filter(([, of]) => of !== undefined));
}

/** Throws away what was typed into a form, or notes that it was sent. */
export function forget(key: string): void {
  const { account, forms } = getState();
  if (account === null || !forms.has(key)) return;
  setState({ forms: new Map([...forms].filter(([known]) => known !== key)) });
  if (!getState().keepsNothing) void del(idOf({ account, key }), onDevice);
}

const isSame = (a: unknown, b: unknown): boolean => {
  if (a instanceof Blob || b instanceof Blob) return a === b;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return Object.is(a, b);
  const keys = Object.keys({ ...a, ...b });
  return keys.every((key) => isSame((a as never)[key], (b as never)[key]));
};

/** Words of a form's values: what was typed, and the names of files. */
function typedIn(value: unknown): string {
  if (value instanceof File) return value.name;
  if (typeof value === 'string') return value;
  if (typeof value !== 'object' || value === null) return '';
  return Object.values(value).map(typedIn).filter(Boolean).join(' · ');
}

/** What a form is about, for those who find it again. */
export interface About {
  key: string;
  words: string;
}

/** Notes that a form is on the screen, so that nobody is told of it beside it. */
export function useShown(key: string): void {
  useEffect(() => {
    setState({ shown: new Set(getState().shown).add(key) });
    return () => {
      setState({ shown: new Set([...getState().shown].filter((known) => known !== key)) });
    };
  }, [key]);
}

/** A text that is typed and not sent yet, and what it was begun with. */
export interface TypedText {
  text: string;
  /** What the text was changed from, and that one's entity tag. */
  base: string;
  tag: string;
}

/** What was typed under a name and not sent; undefined where nothing was. */
export const typedText = (key: string): TypedText | undefined =>
  getState().forms.get(key)?.value as TypedText | undefined;

/** Keeps a text that is being typed, until it is sent and forgotten. */
export function keepTyped({ key, words }: About, typed: TypedText): void {
  const end = typed.text.trimEnd();
  keepForm({ key, words, typed: end.length > 60 ? `… ${end.slice(-60)}` : end, value: typed });
}

/** Names that texts typed into check-outs of a document are kept under begin so. */
export const typedInto = (documentId: string): string => `check-out ${documentId} `;

/** Whether something was typed into a check-out of a document and never sent. */
export const hasTypedInto = (documentId: string): boolean =>
  [...getState().forms.keys()].some((key) => key.startsWith(typedInto(documentId)));

/** Texts that were typed into check-outs of a document and never sent. */
export const useTypedInto = (documentId: string): readonly Unfinished[] => {
  const forms = useUnfinishedForms((store) => store.forms);
  return [...forms.values()].filter(({ key }) => key.startsWith(typedInto(documentId)));
};

/**
 * The values of a form, kept on this device from the first change on: whatever leaves the form, they are
 * there when it is opened again, until it is sent (`done`) or thrown away by `forget`.
 * @param empty the values as they are before anything is typed or chosen
 */
export function useUnfinished<T extends object>(
  { key, words }: About,
  empty: T,
): { value: T; change: (some: Partial<T>) => void; done: () => void; since: string | null } {
  const kept = useUnfinishedForms(({ forms }) => forms.get(key));
  const late = useRef(empty);
  useEffect(() => {
    late.current = empty;
  });
  useShown(key);
  const value = kept ? { ...empty, ...(kept.value as Partial<T>) } : empty;
  const change = (some: Partial<T>): void => {
    const { forms } = getState();
    // What was not touched follows what there is by then.
    const changed = Object.entries({ ...(forms.get(key)?.value as object | undefined), ...some }).filter(
      ([name, of]) => !isSame(of, late.current[name as keyof T]),
    );
    if (changed.length === 0) {
      forget(key);
      return;
    }
    const next = Object.fromEntries(changed);
    if (isSame(next, forms.get(key)?.value)) return;
    keepForm({ key, words, typed: typedIn(next), value: next });
  };
  return { value, change, done: () => forget(key), since: kept?.at ?? null };
}

/**
 * The same for a form of the component library: what it begins with, and what is told of every change.
 * Secrets are not kept.
 */
export function useUnfinishedValues<T extends object>(
  about: About,
  empty: T,
  secrets: readonly string[] = [],
): { initialValues: T; onValuesChange: (_: unknown, all: T) => void; done: () => void } {
  const { value, change, done } = useUnfinished(about, empty);
  return {
    initialValues: value,
    onValuesChange: (_, all) =>
      change(
        Object.fromEntries(Object.entries(all).filter(([name]) => !secrets.includes(name))) as Partial<T>,
      ),
    done,
  };
}
