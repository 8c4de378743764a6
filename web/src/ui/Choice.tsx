import { Dropdown } from 'antd';
import { ChoiceWords } from './ChoiceWords.tsx';
import { useMenu } from './useMenu.ts';

interface Props {
  value: string;
  /** Value and words. An empty value is allowed. */
  choices: readonly (readonly [value: string, words: string])[];
  name: string;
  onChoose: (value: string) => void;
  /** Opens under the pointer, so that choosing is one press. */
  onHover?: boolean;
  marked?: boolean;
  disabled?: boolean;
}

/** Underlined words of a sentence that can be chosen anew. */
export function Choice({
  value,
  choices,
  name,
  onChoose,
  onHover = false,
  marked = false,
  disabled = false,
}: Props) {
  const shown = choices.find(([key]) => key === value)?.[1] ?? value;
  const { menu, press } = useMenu(onHover);
  return (
    <Dropdown
      {...menu}
      mouseEnterDelay={0.12}
      disabled={disabled}
      menu={{
        items: choices.map(([key, label]) => ({ key: key || ' ', label })),
        selectedKeys: [value || ' '],
        onClick: ({ key }) => onChoose(key.trim()),
      }}
    >
      <ChoiceWords marked={marked} disabled={disabled} aria-label={`${name}: ${shown}`} onClick={press}>
        {shown}
      </ChoiceWords>
    </Dropdown>
  );
}
