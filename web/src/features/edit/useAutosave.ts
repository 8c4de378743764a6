import { useCallback, useEffect, useRef, useState } from 'react';
import { type TextForm, usualForm } from '@polychron/core';
import { ProblemError } from '../../ui/api.ts';
import { type About, forget, keepTyped, typedText, useShown } from '../../ui/unfinished.ts';
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
  /** What is kept on the device while it is not sent. */
  about: About;
  /** The entity tag of what is stored, as far as the page has heard; null where it does not hear of it. */
  present: string | null;
  load(): Promise<LoadedText>;
  /** Writes the text; a step is kept for itself, another write of the same sitting takes its place. */
  save(text: string, tag: string, how: How): Promise<string>;
}

/** `kept`: not sent, the connection is gone; `moved`: somebody, or another window, wrote meanwhile. */
export type Saving = 'loading' | 'saved' | 'typing' | 'saving' | 'kept' | 'moved' | 'refused';

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
  /** Sends what is typed now, without waiting for a pause. */
  send(): Promise<void>;
  /** Writes the text in UTF-8 from now on. */
  toUtf8(): void;
  /** What this text and the other were changed from. */
  base: string;
  takeOther(): void;
  keepMine(): void;
  /** Goes on with a text that both were put together to. */
  takeBoth(text: string): void;
}

/**
 * Saves a text by itself. Every change is kept on the device first, and sent after a pause; what could not
 * be sent is sent once the server answers again, also after the page was closed.
 */
export function useAutosave(source: Source): Autosave {
  const [state, setState] = useState<Saving>('loading');
  const [text, setText] = useState('');
  const [revision, setRevision] = useState(0);
  const [savedAt, setSavedAt] = useState<Date | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [other, setOther] = useState<string | null>(null);
  const [base, setBase] = useState('');
  const [form, setForm] = useState<TextForm | null>(null);
  const now = useRef({
    text: '',
    tag: '',
    base: '',
    sitting: crypto.randomUUID() as string,
    dirty: false,
    timer: 0,
    sending: null as Promise<void> | null,
    held: false,
    refused: false,
    form: null as TextForm | null,
    resend: (): void => undefined,
  });
  const { key } = source.about;
  useShown(key);
  const late = useRef(source);
  useEffect(() => {
    late.current = source;
  });

  const keep = useCallback(() => {
    const { text: typed, base: from, tag } = now.current;
    keepTyped(late.current.about, { text: typed, base: from, tag });
  }, []);
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
          at.base = sent;
          setSavedAt(new Date());
          setError(null);
          if (at.text === sent) {
            forget(key);
            setState('saved');
          } else {
            at.dirty = true;
            setState('typing');
            keep();
          }
        } catch (refusal) {
          at.dirty = true;
          const status = refusal instanceof ProblemError ? refusal.problem.status : -1;
          if (status === 0 || status >= 500) setState('kept');
          else if (status === 412) {
            at.held = true;
            setBase(at.base);
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
    [key, keep],
  );
  useEffect(() => {
    now.current.resend = () => void send();
  }, [send]);

  useEffect(() => {
    let gone = false;
    const at = now.current;
    const begin = async (): Promise<void> => {
      const draft = typedText(key);
      const loaded = await late.current.load();
      if (gone) return;
      at.tag = loaded.tag;
      at.form = loaded.form;
      at.base = loaded.text;
      setForm(loaded.form);
      if (!draft || draft.text === loaded.text) {
        forget(key);
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
      at.base = draft.base;
      setBase(draft.base);
      at.held = true;
      setOther(loaded.text);
      setState('moved');
    };
    const start = (): void => {
      begin().catch((refusal: unknown) => {
        if (gone) return;
        const unreachable = refusal instanceof ProblemError && refusal.problem.status === 0;
        const draft = unreachable ? typedText(key) : undefined;
        if (draft) {
          at.tag = draft.tag;
          at.base = draft.base;
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

  // Whoever does not type hears at once that it was saved from elsewhere.
  const { present } = source;
  const stands = useRef(state);
  useEffect(() => {
    stands.current = state;
  });
  useEffect(() => {
    const at = now.current;
    // What one sends oneself is heard of too.
    if (stands.current !== 'saved' || present === null || present === at.tag) return undefined;
    let gone = false;
    const look = async (): Promise<void> => {
      const loaded = await late.current.load();
      if (gone || at.dirty || at.sending || loaded.tag === at.tag) return;
      if (loaded.text === at.text) {
        at.tag = loaded.tag;
        return;
      }
      at.held = true;
      setBase(at.base);
      setOther(loaded.text);
      setState('moved');
    };
    look().catch((refusal: unknown) => setError(refusal));
    return () => {
      gone = true;
    };
  }, [present]);

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
    keep();
    window.clearTimeout(at.timer);
    if (!at.held) at.timer = window.setTimeout(() => void send(), pause);
  };
  const settle = async (mine: boolean, together: string | null = null): Promise<void> => {
    const at = now.current;
    const loaded = await late.current.load();
    at.tag = loaded.tag;
    at.base = loaded.text;
    at.held = false;
    setOther(null);
    if (mine) {
      if (together !== null) lay(together);
      at.dirty = true;
      keep();
      await send();
      return;
    }
    at.dirty = false;
    forget(key);
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
    base,
    form,
    toUtf8,
    change,
    saveStep: () => send(true),
    send: () => send(),
    takeOther: () => tried(settle(false)),
    keepMine: () => tried(settle(true)),
    takeBoth: (together) => tried(settle(true, together)),
  };
}
