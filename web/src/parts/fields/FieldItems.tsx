import type { Document, Library } from '@polychron/contract';
import { AutoComplete, Form, Select } from 'antd';
import { FormDate } from './FormDate.tsx';
import { OwnItems } from './OwnItems.tsx';
import { type GivenValue, isEmpty, knownTypes, peopleAmong } from './ownFields.ts';
import { PeopleField, PersonField } from './PeopleField.tsx';

/** What a person gives in the fields of a document, beside its title. */
export interface GivenFields {
  type?: string;
  subject?: string[];
  reviewBy?: string | null;
  owner?: string;
  coAuthors?: string[];
  approvers?: string[];
  /** Fields of the library's own, by name. */
  own?: Record<string, GivenValue | null | undefined>;
}

/** Fields as the API takes them: what was left empty is left out, the library's own beside the others. */
export function filledIn({ own = {}, ...given }: GivenFields): Record<string, GivenValue> {
  const all: Record<string, GivenValue | null | undefined> = { ...given, ...own };
  const filled = Object.entries(all).filter((entry): entry is [string, GivenValue] => !isEmpty(entry[1]));
  return Object.fromEntries(filled);
}

/** The fields of a document and its people, as items of a form; `of` is a document that has some already. */
export function FieldItems({ library, of }: { library: Library; of?: Document }) {
  const people = { libraryId: library.id };
  return (
    <>
      <Form.Item name="type" label="Type">
        <AutoComplete
          placeholder="Operating procedure"
          maxLength={60}
          options={knownTypes(library.rules).map((value) => ({ value }))}
          showSearch={{ filterOption: true }}
        />
      </Form.Item>
      <Form.Item name="subject" label="Subject">
        <Select mode="tags" open={false} suffixIcon={null} placeholder="press Enter after each" />
      </Form.Item>
      <Form.Item name="reviewBy" label="Review by">
        <FormDate name="Review by" />
      </Form.Item>
      <OwnItems library={library} known={of ? peopleAmong(of.fields) : []} />
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
