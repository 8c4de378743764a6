import type { Document, Library } from '@polychron/contract';
import { Form, Input, Select } from 'antd';
import { DateField } from '../../ui/dates.tsx';
import { PeopleField, PersonField } from './PeopleField.tsx';

/** What a person gives in the fields of a document, beside its title. */
export interface GivenFields {
  type?: string;
  subject?: string[];
  reviewBy?: string | null;
  owner?: string;
  coAuthors?: string[];
  approvers?: string[];
}

/** What was given, without what was left empty. */
export function filledIn(given: GivenFields): GivenFields {
  const filled = Object.entries(given).filter(([, value]) => value && value.length > 0);
  return Object.fromEntries(filled);
}

/** A date in a form of the component library, which hands the value in. */
function FormDate({
  name,
  value = null,
  onChange = () => undefined,
}: {
  name: string;
  value?: string | null;
  onChange?: (value: string | null) => void;
}) {
  return <DateField name={name} value={value} onChange={onChange} />;
}

/** The fields of a document and its people, as items of a form; `of` is a document that has some already. */
export function FieldItems({ library, of }: { library: Library; of?: Document }) {
  const people = { libraryId: library.id };
  return (
    <>
      <Form.Item name="type" label="Type">
        <Input placeholder="Operating procedure" maxLength={60} />
      </Form.Item>
      <Form.Item name="subject" label="Subject">
        <Select mode="tags" open={false} suffixIcon={null} placeholder="press Enter after each" />
      </Form.Item>
      <Form.Item name="reviewBy" label="Review by">
        <FormDate name="Review by" />
      </Form.Item>
      <Form.Item name="owner" label="Owner">
        <PersonField {...people} known={of ? [of.owner] : []} empty="you" />
      </Form.Item>
      <Form.Item name="coAuthors" label="Co-authors">
        <PeopleField {...people} known={of?.coAuthors ?? []} empty="nobody else" />
      </Form.Item>
      {library.rules.approval && (
        <Form.Item name="approvers" label="Approvers">
          <PeopleField
            {...people}
            role="approver"
            known={of?.approvers ?? []}
            empty="those the Rulebook names"
          />
        </Form.Item>
      )}
    </>
  );
}
