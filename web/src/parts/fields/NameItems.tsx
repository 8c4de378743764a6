import type { Library } from '@polychron/contract';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Form, Input } from 'antd';
import { useDeferredValue } from 'react';
import { nextNumberQuery } from '../queries.ts';

/** The title of a document to be, as an item of a form. */
export const TitleItem = () => (
  <Form.Item
    name="title"
    label="Title"
    rules={[{ required: true, whitespace: true, message: 'A document needs a title.' }]}
  >
    <Input maxLength={300} />
  </Form.Item>
);

/** The number of a new document; the one that is proposed for its type stands in the empty field. */
export const NumberItem = ({ library }: { library: Library }) => (
  <Form.Item name="number" label="Number">
    <NumberInput library={library} />
  </Form.Item>
);

function NumberInput({ library, ...handed }: { library: Library }) {
  const type = Form.useWatch('type', Form.useFormInstance()) as string | undefined;
  const { data } = useQuery({
    ...nextNumberQuery(library.id, useDeferredValue(type?.trim() ?? '')),
    placeholderData: keepPreviousData,
  });
  return <Input {...handed} placeholder={data?.number ?? `next ${library.code} number`} maxLength={40} />;
}
