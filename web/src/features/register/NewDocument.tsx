import { routes, type Document, type Library } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Form, Input, Progress, Select, Upload as UploadField } from 'antd';
import { useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { upload, type Upload } from '../../shared/api.ts';
import { Refusal } from '../../shared/Refusal.tsx';
import { ManyDocuments } from './ManyDocuments.tsx';
import { titleOf } from './titleOf.ts';

interface Values { title: string; number?: string; type?: string; subject?: string[]; reviewBy?: string; comment?: string }

/** A new document by its file: dropped or chosen, then named. The title is proposed from the file's name. */
export function NewDocument({ library, files, onLeave, onMade }: { library: Library; files: File[]; onLeave: () => void; onMade: (document: Document | null) => void }) {
  const [many, setMany] = useState<File[]>(files.length > 1 ? files : []);
  if (many.length > 1) return <ManyDocuments library={library} files={many} onLeave={onLeave} />;
  return <OneDocument library={library} given={files[0] ?? null} onMany={setMany} onLeave={onLeave} onMade={onMade} />;
}

interface OneProps { library: Library; given: File | null; onMany: (files: File[]) => void; onLeave: () => void; onMade: (document: Document) => void }

function OneDocument({ library, given, onMany, onLeave, onMade }: OneProps) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [form] = Form.useForm<Values>();
  const [file, setFile] = useState<File | null>(given);
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const { numbering, approval } = library.rules;
  const stepped = numbering === 'stepped';
  const first = stepped ? '0.1' : numbering === 'whole' ? '1' : 'its current version';
  const sending = useRef<Upload<Document> | null>(null);
  useHotkeys('escape', () => { if (share === null) onLeave(); }, { enableOnFormTags: true });

  const take = (chosen: File): false => {
    setFile(chosen);
    setError(null);
    if (!form.getFieldValue('title')) form.setFieldValue('title', titleOf(chosen.name));
    return false;
  };
  const register = async ({ title, number, type, subject, reviewBy, comment }: Values): Promise<void> => {
    if (!file) { setError(new Error('choose a file first')); return; }
    setError(null);
    setShare(0);
    const fields = { title, ...(number ? { number } : {}), ...(type ? { type } : {}), ...(subject?.length ? { subject } : {}), ...(reviewBy ? { reviewBy } : {}) };
    sending.current = upload(routes.createDocument, { id: library.id }, { file, fields: { fields: JSON.stringify(fields), comment: comment ?? '', level: stepped ? 'minor' : 'major' } }, setShare);
    try {
      const made = await sending.current.done;
      void message.success(`${made.number} is registered${numbering === 'none' ? '' : ` at ${made.latest.label}`}${made.latest.state === 'inApproval' ? ' and waits for its approvers' : ''}.`);
      await client.invalidateQueries({ queryKey: ['documents'] });
      await client.invalidateQueries({ queryKey: ['libraries'] });
      onMade(made);
    } catch (refusal) { setError(refusal); setShare(null); }
  };

  return (
    <section className="new-document" aria-label="New document">
      <UploadField.Dragger multiple showUploadList={false} beforeUpload={(chosen, all) => { if (all.length > 1) { if (chosen === all[0]) onMany([...all]); return false; } return take(chosen); }} disabled={share !== null}>
        <p>{file ? <strong>{file.name}</strong> : <>Drop the file here, or press to choose it; several make a document each</>}</p>
        <p className="muted">{file ? 'Drop another to take its place' : stepped ? 'It becomes version 0.1, a draft' : approval ? `It becomes ${first} once its approvers agree` : `It becomes ${first}, in force at once`}</p>
      </UploadField.Dragger>
      <Form form={form} initialValues={given ? { title: titleOf(given.name) } : {}} layout="vertical" requiredMark={false} disabled={share !== null} onFinish={(values) => void register(values)}>
        <Form.Item name="title" label="Title" rules={[{ required: true, whitespace: true, message: 'A document needs a title.' }]}><Input maxLength={300} /></Form.Item>
        <div className="form-line">
          <Form.Item name="number" label="Number"><Input placeholder={`next ${library.code} number`} maxLength={40} /></Form.Item>
          <Form.Item name="type" label="Type"><Input placeholder="Operating procedure" maxLength={60} /></Form.Item>
          <Form.Item name="subject" label="Subject"><Select mode="tags" open={false} suffixIcon={null} placeholder="words, each with Enter" /></Form.Item>
          <Form.Item name="reviewBy" label="Review by"><Input type="date" /></Form.Item>
        </div>
        <Form.Item name="comment" label="Comment"><Input maxLength={4000} placeholder="First version" /></Form.Item>
        {share !== null && <Progress percent={Math.round(share * 100)} size="small" aria-label="Upload" />}
        <Refusal error={error instanceof Error && error.message === 'choose a file first' ? null : error} />
        {error instanceof Error && error.message === 'choose a file first' && <div className="refusal" role="alert">Choose the document's file first.</div>}
        <div className="acts">
          <Button type="primary" htmlType="submit" loading={share !== null}>{stepped || numbering === 'whole' ? `Register at ${first}` : 'Register'}</Button>
          {share === null ? <button type="button" className="quiet" onClick={onLeave}>Not now</button>
            : <button type="button" className="quiet" onClick={() => sending.current?.cancel()}>Cancel the upload</button>}
        </div>
      </Form>
    </section>
  );
}
