import { type DeskFile, routes } from '@polychron/contract';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, Select } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router-dom';
import { call } from '../../ui/api.ts';
import { documentsQuery, librariesQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { FieldItems, filledIn, type GivenFields } from '../../parts/fields/FieldItems.tsx';
import { givenOf } from '../../parts/fields/ownFields.ts';
import { NumberItem, TitleItem } from '../../parts/fields/NameItems.tsx';
import { titleOf } from '../../parts/titleOf.ts';
import { useMessages } from '../../ui/messages.tsx';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';
import { useUnfinishedValues } from '../../ui/unfinished.ts';

interface Values extends GivenFields {
  title: string;
  number?: string;
  comment?: string;
}

/** What is known already of the document to be. */
function known({ meantFor, fileName }: DeskFile): Values {
  const { title, number, type, subject, reviewBy, owner, coAuthors, approvers, ...own } =
    meantFor?.fields ?? {};
  const common = { number, type, subject, reviewBy, owner, coAuthors, approvers };
  const given = Object.entries(common).filter(([, value]) => value !== undefined);
  return {
    title: title ?? titleOf(fileName),
    ...Object.fromEntries(given),
    own: givenOf({ title: '', ...own }),
  };
}

/** Where a file goes that does not say: a document of a library, or a new one. */
export function Target({ file, onDocument }: { file: DeskFile; onDocument: (id: string) => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const message = useMessages();
  const { data: libraries } = useQuery(librariesQuery);
  const open = libraries?.items.filter(({ acts }) => acts.create.allowed) ?? [];
  const [chosen, setChosen] = useState((file.meantFor?.library ?? file.document?.library)?.id);
  const library = open.find(({ id }) => id === chosen) ?? open[0];
  const [q, setQ] = useState('');
  const list = useInfiniteQuery({
    ...documentsQuery(library?.id ?? '', q ? { q } : {}),
    enabled: Boolean(library),
  });
  const [form] = Form.useForm<Values>();
  const typed = useUnfinishedValues(
    { key: `register ${file.id}`, words: `Register ${file.fileName}` },
    known(file),
  );
  const several = useSeveralOutcomes();
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  if (libraries && open.length === 0)
    return <p className="refusal">You are an author or controller of no library.</p>;
  if (!library) return null;
  const stepped = library.rules.numbering === 'stepped';
  const register = async ({ title, comment = '', ...given }: Values): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      const made = await call(routes.registerDeskFile, {
        params: { id: file.id },
        body: {
          library: library.id,
          fields: { title, ...filledIn(given) },
          comment,
          level: stepped ? 'minor' : 'major',
        },
      });
      typed.done();
      void message.success(`${made.number} is registered as ${made.latest.label}.`);
      for (const name of ['desk', 'documents', 'libraries'])
        await client.invalidateQueries({ queryKey: [name] });
      void navigate(`/${library.code}/documents/${made.id}`);
    } catch (refusal) {
      setError(refusal);
      setBusy(false);
    }
  };
  return (
    <div className="target">
      <label className="target-line">
        Library{' '}
        <Select
          aria-label="Library"
          value={library.id}
          options={open.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={setChosen}
        />
      </label>
      <div className="target-ways">
        <section aria-label="As the next version of a document">
          <h2>As the next version of</h2>
          <Select
            showSearch={{ onSearch: setQ, filterOption: false }}
            aria-label="Document"
            placeholder="a document: number or title"
            style={{ width: '100%' }}
            options={
              list.data?.pages[0]?.items.map((document) => ({
                value: document.id,
                label: `${document.number} ${document.title}`,
              })) ?? []
            }
            onChange={onDocument}
          />
        </section>
        <Form
          form={form}
          className="target-new"
          aria-label="As a new document"
          layout="vertical"
          requiredMark={false}
          initialValues={typed.initialValues}
          onValuesChange={typed.onValuesChange}
          onKeyDown={several.onKeyDown}
          disabled={busy}
          onFinish={(values) => void register(values)}
        >
          <h2>As a new document</h2>
          <TitleItem />
          <div className="target-fields">
            <NumberItem library={library} />
            <FieldItems library={library} />
          </div>
          <Form.Item name="comment" label="Comment">
            <Input placeholder="First version" maxLength={4000} />
          </Form.Item>
          <Button htmlType="submit" type="primary" loading={busy}>
            Register in {library.name}
          </Button>
          {several.hint}
          <Refusal error={error} onLeave={() => setError(null)} />
        </Form>
      </div>
    </div>
  );
}
