import { DateField } from '../../ui/dates.tsx';

/** A date in a form of the component library, which hands the value in. */
export function FormDate({
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
