import { routes, type DeskFile, type Document, type Library, type TemplateList } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, Progress, Upload as UploadField } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { PageError, upload, type Upload } from '../../ui/api.ts';
import { type Level, numberWords } from '@polychron/core';
import { madeWords, sayMade } from '../../parts/checkIn/useCheckInFlow.ts';
import { FieldItems, filledIn, type GivenFields } from '../../parts/fields/FieldItems.tsx';
import { NumberItem, TitleItem } from '../../parts/fields/NameItems.tsx';
import { templatesQuery } from '../../parts/queries.ts';
import { PlaceInQueue } from '../../parts/PlaceInQueue.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { firstWays } from './firstWays.ts';
import { aboutMany, ManyDocuments } from './ManyDocuments.tsx';
import { titleOf } from '../../parts/titleOf.ts';
import { useMessages } from '../../ui/messages.tsx';
import { useEscape } from '../../ui/useEscape.ts';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';
import { useUnfinished, useUnfinishedForms } from '../../ui/unfinished.ts';

interface Values extends GivenFields {
  title: string;
  number?: string;
  comment?: string;
}

/** A new document by its file: dropped or chosen, then named. The title is proposed from the file's name. */
export function NewDocument({
  library,
  files,
  subject,
  onMany,
  onLeave,
  onMade,
}: {
  library: Library;
  files: File[];
  /** Subjects that are proposed. */
  subject: string[];
  /** Told of several files that were dropped where one was asked for. */
  onMany: (files: File[]) => void;
  onLeave: () => void;
  onMade: (document: Document | null) => void;
}) {
  const keptFiles = useUnfinishedForms(({ forms }) => forms.get(aboutMany(library).key)?.value);
  const many = files.length === 0 ? filesIn(keptFiles) : files;
  if (many.length > 1)
    return <ManyDocuments library={library} files={many} subject={subject} onLeave={onLeave} />;
  return (
    <OneDocument
      library={library}
      given={files[0] ?? null}
      subject={subject}
      onMany={onMany}
      onLeave={onLeave}
      onMade={onMade}
    />
  );
}

/** Files that were dropped before and not registered. */
const filesIn = (kept: unknown): File[] =>
  ((kept as { files?: unknown[] } | undefined)?.files ?? []).filter((file) => file instanceof File);

type Template = TemplateList['items'][number];

/** The templates a document can begin with, in place of a file. */
function Templates({
  library,
  chosen,
  onChoose,
}: {
  library: Library;
  chosen: Template | null;
  onChoose: (template: Template) => void;
}) {
  const { data } = useQuery(templatesQuery(library.id));
  if (!data || data.items.length === 0) return null;
  return (
    <div role="group" aria-label="Templates">
      <p className="muted">or begin with</p>
      <ul className="templates">
        {data.items.map((template) => (
          <li key={template.document.id}>
            <button
              type="button"
              className="quiet"
              aria-pressed={chosen?.document.id === template.document.id}
              onClick={() => onChoose(template)}
            >
              <bdi>{template.document.title}</bdi>
            </button>{' '}
            <span className="muted">
              {template.type}, <span className="number">{numberWords(template.version)}</span>
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** What a document begins with: a file or a template, and the file from outside that it took the place of. */
interface Beginning {
  file: File | null;
  template: Template | null;
  insteadOf: File | null;
}

interface OneProps {
  library: Library;
  given: File | null;
  subject: string[];
  onMany: (files: File[]) => void;
  onLeave: () => void;
  onMade: (document: Document) => void;
}

function OneDocument({ library, given, subject, onMany, onLeave, onMade }: OneProps) {
  const client = useQueryClient();
  const message = useMessages();
  const [form] = Form.useForm<Values>();
  // What came last counts: what was chosen in the form, or a file given later.
  const about = { key: `newDocument ${library.id}`, words: `New document in ${library.name}` };
  const kept = useUnfinished<Partial<Values> & { file: File | null }>(about, { subject, file: null });
  const several = useSeveralOutcomes();
  const [beginning, setBeginning] = useState<Beginning>({
    file: given ?? kept.value.file,
    template: null,
    insteadOf: given,
  });
  const { file, template } = beginning.insteadOf === given ? beginning : { file: given, template: null };
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const { numbering, approval } = library.rules;
  const ways = firstWays(numbering, approval);
  const sending = useRef<Upload<Document> | Upload<DeskFile> | null>(null);
  const [level, setLevel] = useState<Level | null>(null);
  useEscape(() => {
    if (share === null) onLeave();
  });

  const keepFile = useRef(kept.change);
  useEffect(() => {
    keepFile.current = kept.change;
  });
  useEffect(() => {
    if (file) keepFile.current({ file });
  }, [file]);
  useEffect(() => {
    if (file && !form.getFieldValue('title')) form.setFieldValue('title', titleOf(file.name));
  }, [file, form]);
  const take = (taken: File): false => {
    setBeginning({ file: taken, template: null, insteadOf: given });
    setError(null);
    return false;
  };
  const register = async (values: Values, chosen: Level): Promise<void> => {
    const { title, number, comment, ...given } = values;
    if (!file && !template) {
      setError(new PageError("Choose the document's file first, or a template to begin with."));
      return;
    }
    setError(null);
    setShare(0);
    setLevel(chosen);
    const fields = {
      title,
      ...(number ? { number } : {}),
      ...filledIn(given),
    };
    const sent = {
      fields: JSON.stringify(fields),
      comment: comment ?? '',
      level: chosen,
      ...(template ? { template: template.document.id } : {}),
    };
    const making = upload(routes.createDocument, { id: library.id }, { file, fields: sent }, setShare);
    sending.current = making;
    try {
      const made = await making.done;
      const as = numbering === 'none' ? '' : ` as ${made.latest.label}`;
      const said = `${made.number} is registered${as}${madeWords(made.latest)}.`;
      sayMade(message, said, made.notRead);
      kept.done();
      await client.invalidateQueries({ queryKey: ['documents'] });
      await client.invalidateQueries({ queryKey: ['libraries'] });
      onMade(made);
    } catch (refusal) {
      setError(refusal);
      setShare(null);
    }
  };

  const keepOnDesk = async (): Promise<void> => {
    if (!file) return;
    const { title, number, comment: _, ...given } = form.getFieldsValue();
    const known = { ...(title ? { title } : {}), ...(number ? { number } : {}), ...filledIn(given) };
    setError(null);
    setShare(0);
    const arriving = upload(
      routes.addDeskFile,
      {},
      { file, fields: { library: library.id, fields: JSON.stringify(known) } },
      setShare,
    );
    sending.current = arriving;
    try {
      await arriving.done;
      kept.done();
      void message.success(`${file.name} is on your Desk, to be registered here once it is complete.`);
      await client.invalidateQueries({ queryKey: ['desk'] });
      onLeave();
    } catch (refusal) {
      setError(refusal);
      setShare(null);
    }
  };
  const registerAs = (chosen: Level): void => {
    // A field that is not as it should be says so itself.
    void form.validateFields().then(
      (values) => register(values, chosen),
      () => undefined,
    );
  };

  const beginWith = (begun: Template): void => {
    setBeginning({ file: null, template: begun, insteadOf: given });
    setError(null);
    if (!form.getFieldValue('type')) form.setFieldValue('type', begun.type);
  };
  return (
    <section className="new-document" aria-label="New document">
      <div className="beginning">
        <UploadField.Dragger
          multiple
          showUploadList={false}
          beforeUpload={(one, all) => {
            if (all.length > 1) {
              if (one === all[0]) onMany([...all]);
              return false;
            }
            return take(one);
          }}
          disabled={share !== null}
        >
          <p>
            {file || template ? (
              <strong>{file ? file.name : template?.document.title}</strong>
            ) : (
              <>Drop the file here, or press to choose it; each file becomes a document</>
            )}
          </p>
          <p className="muted">
            {file || template ? 'Drop another to take its place' : `It becomes ${ways[0].becomes}`}
          </p>
        </UploadField.Dragger>
        <Templates library={library} chosen={template} onChoose={beginWith} />
      </div>
      <Form
        form={form}
        initialValues={kept.value}
        onValuesChange={(_, all: Values) => kept.change(all)}
        onKeyDown={several.onKeyDown}
        layout="vertical"
        requiredMark={false}
        disabled={share !== null}
      >
        <TitleItem />
        <div className="form-line">
          <NumberItem library={library} />
          <FieldItems library={library} />
        </div>
        <Form.Item name="comment" label="Comment">
          <Input maxLength={4000} placeholder="First version" />
        </Form.Item>
        {share !== null && <Progress percent={Math.round(share * 100)} size="small" aria-label="Upload" />}
        {share === 1 && <PlaceInQueue />}
        {several.hint}
        <Refusal error={error} />
        <div className="acts">
          {ways.map((way, index) => (
            <Button
              key={way.level}
              type={index === 0 ? 'primary' : 'default'}
              loading={share !== null && level === way.level}
              onClick={() => registerAs(way.level)}
            >
              {way.words(1)}
            </Button>
          ))}
          {share === null ? (
            <>
              {file && (
                <button type="button" className="quiet" onClick={() => void keepOnDesk()}>
                  Keep it on my Desk
                </button>
              )}
              <button type="button" className="quiet" onClick={onLeave}>
                Cancel
              </button>
            </>
          ) : (
            <button type="button" className="quiet" onClick={() => sending.current?.cancel()}>
              Cancel the upload
            </button>
          )}
        </div>
      </Form>
    </section>
  );
}
