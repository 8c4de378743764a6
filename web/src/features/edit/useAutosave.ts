import { del, get, set } from 'idb-keyval';
import { useCallback, useEffect, useRef, useState } from 'react';
import { type TextForm, usualForm } from '@polychron/core';
import { ProblemError } from '../../ui/api.ts';
import type { LoadedText } from './textFile.ts';

/**
 * How a text is written: as a step for itself or in one sitting; in which form, unless nobody knows it
 * yet.
 */
export interface How {
  sitting: string;
  step: boolean;
  form: TextForm | null;
}

/** Where a text lives: read with its entity tag, written against one. */
export interface Source {
  /** Names what is kept in the browser while it is not sent. */
  key: string;
  load(): Promise<LoadedText>;
  /** Writes the text; a step is kept for itself, another write of the same sitting takes its place. */
  save(text: string, tag: string, how: How): Promise<string>;
}

/** `kept`: not sent, the connection is gone; `moved`: somebody, or another window, wrote meanwhile. */
export type Saving = 'loading' | 'saved' | 'typing' | 'saving' | 'kept' | 'moved' | 'refused';
interface Draft {
  text: string;
  tag: string;
}

/** Pause after which a text is sent, and time between tries without a connection; in milliseconds. */
const pause = 1200;
const again = 3000;

export interface Autosave {
  state: Saving;
  text: string;
  revision: number;
  savedAt: Date | null;
  error: unknown;
  /** What is there instead, where `state` is `moved`. */
  other: string | null;
  /** How the text stands in its file. */
  form: TextForm | null;
  change(text: string): void;
  saveStep(): Promise<void>;
  /** Writes the text in UTF-8 from now on. */
  toUtf8(): void;
  takeOther(): void;
  keepMine(): void;
}

/**
 * Saves a text by itself. Every change is kept in the browser first, and sent after a pause; what could not
 * be sent is sent once the server answers again, also after the page was closed.
 */
export function useAutosave(source: Source): Autosave {
  const [state, setState] = useState<Saving>('loading');
  const [text, setText] = useState('');
  const [revision, setRevision] = useState(0);
  const [savedAt, setSavedAt] = useState<Date | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [other, setOther] = useState<string | null>(null);
  const [form, setForm] = useState<TextForm | null>(null);
  const now = useRef({
    text: '',
    tag: '',
    sitting: crypto.randomUUID() as string,
    dirty: false,
    timer: 0,
    sending: null as Promise<void> | null,
    held: false,
    refused: false,
    form: null as TextForm | null,
    resend: (): void => undefined,
  });
  const { key } = source;
  const late = useRef(source);
  useEffect(() => {
    late.current = source;
  });

  const lay = useCallback((given: string) => {
    now.current.text = given;
    setText(given);
    setRevision((so) => so + 1);
  }, []);
  const send = useCallback(
    async (step = false): Promise<void> => {
      const at = now.current;
      window.clearTimeout(at.timer);
      while (at.sending) await at.sending;
      if (at.held || (!at.dirty && !step)) return;
      const sent = at.text;
      at.dirty = false;
      setState('saving');
      at.sending = (async () => {
        try {
          // After a start without a connection it is not known yet how the file is written.
          at.form ??= (await late.current.load()).form;
          setForm(at.form);
          const { sitting, form: written } = at;
          at.tag = await late.current.save(sent, at.tag, { sitting, step, form: written });
          if (step) at.sitting = crypto.randomUUID();
          setSavedAt(new Date());
          setError(null);
          if (at.text === sent) {
            await del(key);
            setState('saved');
          } else {
            at.dirty = true;
            setState('typing');
            await set(key, { text: at.text, tag: at.tag } satisfies Draft);
          }
        } catch (refusal) {
          at.dirty = true;
          const status = refusal instanceof ProblemError ? refusal.problem.status : -1;
          if (status === 0 || status >= 500) setState('kept');
          else if (status === 412) {
            at.held = true;
            setOther((await late.current.load()).text);
            setState('moved');
          } else {
            at.held = true;
            at.refused = true;
            setError(refusal);
            setState('refused');
          }
        } finally {
          at.sending = null;
        }
      })();
      await at.sending;
      if (at.dirty && !at.held) at.timer = window.setTimeout(at.resend, again);
    },
    [key],
  );
  useEffect(() => {
    now.current.resend = () => void send();
  }, [send]);

  useEffect(() => {
    let gone = false;
    const at = now.current;
    const begin = async (): Promise<void> => {
      const draft = await get<Draft>(key);
      const loaded = await late.current.load();
      if (gone) return;
      at.tag = loaded.tag;
      at.form = loaded.form;
      setForm(loaded.form);
      if (!draft || draft.text === loaded.text) {
        if (draft) await del(key);
        lay(loaded.text);
        setState('saved');
        return;
      }
      // Typed here before and never sent.
      lay(draft.text);
      at.dirty = true;
      if (draft.tag === loaded.tag) {
        void send();
        return;
      }
      at.held = true;
      setOther(loaded.text);
      setState('moved');
    };
    const start = (): void => {
      begin().catch(async (refusal: unknown) => {
        if (gone) return;
        const unreachable = refusal instanceof ProblemError && refusal.problem.status === 0;
        const draft = unreachable ? await get<Draft>(key) : undefined;
        if (draft) {
          at.tag = draft.tag;
          lay(draft.text);
          at.dirty = true;
          setState('kept');
          at.timer = window.setTimeout(() => void send(), again);
          return;
        }
        setError(refusal);
        setState('refused');
      });
    };
    start();
    const back = (): void => {
      if (at.dirty && !at.held) void send();
    };
    window.addEventListener('online', back);
    return () => {
      gone = true;
      window.removeEventListener('online', back);
      window.clearTimeout(at.timer);
      if (at.dirty && !at.held) void send();
    };
  }, [key, lay, send]);

  /** What was refused is tried again once it is another text, or written otherwise. */
  const goOn = (): void => {
    const at = now.current;
    if (!at.refused) return;
    at.refused = false;
    at.held = false;
    setError(null);
  };
  const toUtf8 = (): void => {
    const at = now.current;
    at.form = { ...usualForm, ending: at.form?.ending ?? usualForm.ending };
    setForm(at.form);
    at.dirty = true;
    goOn();
    void send();
  };
  const change = (given: string): void => {
    const at = now.current;
    if (given === at.text) return;
    at.text = given;
    at.dirty = true;
    setText(given);
    goOn();
    setState((so) => (so === 'moved' || so === 'kept' ? so : 'typing'));
    void set(key, { text: given, tag: at.tag } satisfies Draft);
    window.clearTimeout(at.timer);
    if (!at.held) at.timer = window.setTimeout(() => void send(), pause);
  };
  const settle = async (mine: boolean): Promise<void> => {
    const at = now.current;
    const loaded = await late.current.load();
    at.tag = loaded.tag;
    at.held = false;
    setOther(null);
    if (mine) {
      at.dirty = true;
      await send();
      return;
    }
    at.dirty = false;
    await del(key);
    lay(loaded.text);
    setState('saved');
  };
  const tried = (work: Promise<void>): void => {
    work.catch((refusal: unknown) => setError(refusal));
  };
  return {
    state,
    text,
    revision,
    savedAt,
    error,
    other,
    form,
    toUtf8,
    change,
    saveStep: () => send(true),
    takeOther: () => tried(settle(false)),
    keepMine: () => tried(settle(true)),
  };
}
