import type { Library, OwnField } from '@polychron/contract';
import { Cascader, Form, Input, Select } from 'antd';
import { FormDate } from './FormDate.tsx';
import { isNumber, NumberField } from './NumberField.tsx';
import { isNeeded } from './ownFields.ts';
import { PersonField } from './PeopleField.tsx';

interface Props {
  library: Library;
  /** People who may stand in a field already. */
  known?: { account: string; name: string }[];
}

/** The fields of the library's own, as items of a form; those that the type of document needs say so. */
export function OwnItems({ library, known = [] }: Props) {
  const form = Form.useFormInstance();
  const type = Form.useWatch('type', form) as string | undefined;
  return library.rules.fields.map((field) => {
    const needed = isNeeded(field, type);
    return (
      <Form.Item
        key={field.name}
        name={['own', field.name]}
        label={
          needed ? (
            <>
              {field.name}
              <span className="muted">&nbsp;· needed</span>
            </>
          ) : (
            field.name
          )
        }
        rules={[
          { required: needed, message: `${field.name} has to be filled in.` },
          ...(field.kind === 'number' ? [isNumber(field.name)] : []),
        ]}
      >
        <OwnControl field={field} libraryId={library.id} known={known} />
      </Form.Item>
    );
  });
}

interface ControlProps {
  field: OwnField;
  libraryId: string;
  known: { account: string; name: string }[];
  /** What the form hands in: `id`, `value` and `onChange`, as the kind of field has them. */
  [handed: string]: unknown;
}

function OwnControl({ field, libraryId, known, ...handed }: ControlProps) {
  switch (field.kind) {
    case 'text':
      return <Input {...handed} maxLength={2000} />;
    case 'number':
      return <NumberField {...handed} />;
    case 'date':
      return <FormDate {...handed} name={field.name} />;
    case 'person':
      return <PersonField {...handed} libraryId={libraryId} known={known} empty="nobody" clearable />;
    case 'choice':
      return (
        <Cascader
          {...handed}
          changeOnSelect
          placeholder="nothing chosen"
          options={field.choices.map(({ name, within }) => ({
            value: name,
            label: name,
            ...(within.length > 0 ? { children: within.map((each) => ({ value: each, label: each })) } : {}),
          }))}
          displayRender={(labels) => labels.join(' · ')}
          showSearch
        />
      );
    case 'yesNo':
      return (
        <Select
          {...handed}
          allowClear
          placeholder="not said"
          options={[
            { value: true, label: 'yes' },
            { value: false, label: 'no' },
          ]}
        />
      );
  }
}
