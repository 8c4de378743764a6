import type { Library } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input } from 'antd';
import { useEffect, useRef } from 'react';
import { FieldItems, filledIn, type GivenFields } from '../../parts/fields/FieldItems.tsx';
import { bytes } from '../../ui/when.ts';
import { titleOf } from '../../parts/titleOf.ts';
import { useUploads } from '../../app/uploads.ts';
import { firstWays } from './firstWays.ts';
import { useEscape } from '../../ui/useEscape.ts';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';
import { type About, useUnfinished } from '../../ui/unfinished.ts';

interface Values extends GivenFields {
  comment?: string;
}

interface Typed {
  /** As far as they are changed by hand, by the place of the file. */
  titles: Readonly<Record<number, string>>;
  files: File[];
  values: Values;
}

/** What these forms are called among those that are unfinished. */
export const aboutMany = ({ id, name }: Library): About => ({
  key: `newDocuments ${id}`,
  words: `New documents in ${name}`,
});

/**
 * Many files dropped at once: one form for what they share, a title each. They are registered one after
 * another.
 */
export function ManyDocuments({
  library,
  files,
  subject,
  onLeave,
}: {
  library: Library;
  files: File[];
  /** Subjects that are proposed for all of them. */
  subject: string[];
  onLeave: () => void;
}) {
  const client = useQueryClient();
  const { running, start } = useUploads();
  const [form] = Form.useForm<Values>();
  const kept = useUnfinished<Typed>(aboutMany(library), { titles: {}, files: [], values: { subject } });
  const titles = files.map(({ name }, index) => kept.value.titles[index] ?? (titleOf(name) || name));
  const several = useSeveralOutcomes();
  const keepFiles = useRef(kept.change);
  useEffect(() => {
    keepFiles.current = kept.change;
  });
  useEffect(() => keepFiles.current({ files }), [files]);
  useEscape(onLeave);
  const missing = titles.some((title) => title.trim() === '');
  const { numbering, approval } = library.rules;
  const ways = firstWays(numbering, approval);
  const register = ({ comment = '', ...given }: Values, level: Level | null): void => {
    if (missing || running) return;
    void start(
      { library, client },
      files.map((file, index) => ({ file, title: titles[index] ?? file.name })),
      { comment, level, fields: filledIn(given) },
    );
    kept.done();
    onLeave();
  };
  const registerAs = (level: Level): void => {
    // A field that is not as it should be says so itself.
    void form.validateFields().then(
      (values) => register(values, level),
      () => undefined,
    );
  };
  return (
    <section className="new-document many-documents" aria-label="New documents">
      <ol>
        {files.map((file, index) => (
          <li key={`${index} ${file.name}`}>
            <Input
              aria-label={`Title of ${file.name}`}
              value={titles[index] ?? ''}
              maxLength={300}
              onChange={(event) =>
                kept.change({ titles: { ...kept.value.titles, [index]: event.target.value } })
              }
            />
            <span className="muted">
              {file.name} · {bytes(file.size)}
            </span>
          </li>
        ))}
      </ol>
      <Form
        form={form}
        initialValues={kept.value.values}
        onValuesChange={(_, values: Values) => kept.change({ values })}
        onKeyDown={several.onKeyDown}
        layout="vertical"
        requiredMark={false}
      >
        <h2>For all {files.length} of them</h2>
        <div className="form-line">
          <FieldItems library={library} />
        </div>
        <Form.Item name="comment" label="Comment">
          <Input maxLength={4000} placeholder="First version" />
        </Form.Item>
        {several.hint}
        <div className="acts">
          {ways.map((way, index) => (
            <Button
              key={way.level}
              type={index === 0 ? 'primary' : 'default'}
              disabled={missing || running}
              onClick={() => registerAs(way.level)}
            >
              {way.words(files.length)}
            </Button>
          ))}
          <button
            type="button"
            className="quiet"
            disabled={missing || running}
            onClick={() => register(form.getFieldsValue(), null)}
          >
            Keep them on my Desk
          </button>
          <button type="button" className="quiet" onClick={onLeave}>
            Cancel
          </button>
          {running && <span className="muted">Others are still on their way.</span>}
        </div>
      </Form>
    </section>
  );
}
