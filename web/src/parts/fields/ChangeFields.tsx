import { numberWords } from '@polychron/core';
import { routes, type Document, type Library, type Version } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, type InputRef } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { ask, call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { madeWords, waysOf } from '../checkIn/useCheckInFlow.ts';
import { Never } from '../approval/Never.tsx';
import { refreshDocument } from '../queries.ts';
import { FieldItems } from './FieldItems.tsx';
import { changesOf, valuesOf, type Values } from './changes.ts';
import { useMessages } from '../../ui/messages.tsx';
import { useEscape } from '../../ui/useEscape.ts';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';
import { useUnfinishedValues } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import './fields.css';

/** What makes no version, in words. */
const atOnce = (administrative: readonly string[]): string =>
  ['Owner', 'co-authors', 'approvers', ...administrative].join(', ').replace(/, ([^,]*)$/, ' and $1');

interface Props {
  document: Document;
  library: Library;
  onLeave: () => void;
  /** Told of the version that was made. */
  onDone?: (version: Version) => void;
}

/**
 * Changes a document's fields, which makes a version with the same content, and its people, which makes none.
 * Only what was changed is sent, and only if nobody changed the document since the form was opened.
 */
export function ChangeFields({ document: given, library, onLeave, onDone }: Props) {
  const client = useQueryClient();
  const message = useMessages();
  const [form] = Form.useForm<Values>();
  // The document as it was when the form was opened; others may change it meanwhile.
  const [before] = useState(given);
  const typed = useUnfinishedValues(aboutDocument(given, 'fields', 'Change the fields'), valuesOf(before));
  const several = useSeveralOutcomes();
  const [tag] = useState(() =>
    ask(routes.readDocument, { params: { id: given.id } }).then((read) => read.tag),
  );
  const title = useRef<InputRef>(null);
  const [busy, setBusy] = useState<Level | null>(null);
  const [error, setError] = useState<unknown>(null);
  const values = Form.useWatch([], form) as Values | undefined;
  const apart = library.rules.fields.filter((field) => field.administrative).map(({ name }) => name);
  const { fields, administrative, people } = changesOf(before, values ?? valuesOf(before), apart);
  const makesVersion = Object.keys(fields).length > 0;
  const changed = makesVersion || Object.keys({ ...administrative, ...people }).length > 0;
  useEscape(onLeave);
  useEffect(() => {
    title.current?.focus({ cursor: 'all' });
  }, []);

  const send = async (level: Level): Promise<void> => {
    setBusy(level);
    setError(null);
    try {
      const version = await call(routes.changeDocument, {
        params: { id: before.id },
        body: { fields: { ...fields, ...administrative, ...people }, comment: values?.comment ?? '', level },
        ifMatch: await tag,
      });
      typed.done();
      await refreshDocument(client, before.id);
      if (makesVersion) onDone?.(version);
      onLeave();
      void message.success(
        makesVersion
          ? `${before.number} is recorded as ${numberWords(version.label)}${madeWords(version)}.`
          : `${Object.keys(administrative).length > 0 ? 'Recorded' : `The people of ${before.number} are changed`}; it stays at ${version.label}.`,
      );
    } catch (refusal) {
      setError(refusal);
      setBusy(null);
    }
  };
  const all = before.toCome ? waysOf(before.toCome, 'Record') : [];
  const ways = makesVersion ? all : all.slice(0, 1).map(({ level }) => ({ level, words: 'Record it' }));
  const sendAs = (level: Level): void => {
    // A field that is not as it should be says so itself.
    if (changed)
      void form.validateFields().then(
        () => send(level),
        () => undefined,
      );
  };
  return (
    <Form
      form={form}
      className="change-fields"
      aria-label={`Fields of ${before.number}`}
      initialValues={typed.initialValues}
      onValuesChange={typed.onValuesChange}
      onKeyDown={several.onKeyDown}
      layout="vertical"
      requiredMark={false}
      disabled={busy !== null}
    >
      <Form.Item
        name="title"
        label="Title"
        rules={[{ required: true, whitespace: true, message: 'A document needs a title.' }]}
      >
        <Input ref={title} maxLength={300} />
      </Form.Item>
      <FieldItems library={library} of={before} />
      {makesVersion && (
        <Form.Item name="comment" label="Comment">
          <Input maxLength={4000} placeholder={`Changed ${Object.keys(fields).join(', ')}`} />
        </Form.Item>
      )}
      <p className="muted">
        {makesVersion
          ? 'A version with the same content; what is in force keeps its fields until it is published.'
          : `Fields belong to a version. ${atOnce(apart)} change at once, without one.`}
      </p>
      {makesVersion && before.toCome?.submittedAs === null && before.toCome.scheduled.length > 0 && (
        <p>
          Recorded in force:
          <Never toCome={before.toCome} />
        </p>
      )}
      {several.hint}
      <Refusal error={error} />
      <div className="acts">
        {ways.map(({ level, words }, index) => (
          <Button
            key={level}
            type={index === 0 ? 'primary' : 'default'}
            disabled={!changed}
            loading={busy === level}
            onClick={() => sendAs(level)}
          >
            {words}
          </Button>
        ))}
        <button type="button" className="quiet" onClick={onLeave}>
          Cancel
        </button>
      </div>
    </Form>
  );
}
