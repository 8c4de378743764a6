import { Dropdown } from 'antd';
import { ChoiceWords } from '../../ui/ChoiceWords.tsx';
import { useMenu } from '../../ui/useMenu.ts';

interface Props<T extends string> {
  name: string;
  /** What the set comes to, as the sentence says it. */
  words: string;
  chosen: readonly T[];
  /** Value and word of each that may be in the set. */
  choices: readonly (readonly [value: T, words: string])[];
  marked: boolean;
  onChoose: (chosen: T[]) => void;
}

/**
 * Underlined words of a sentence that are a set: each of its choices is put in or taken out, and the list
 * stays open.
 */
export function SetChoice<T extends string>({ name, words, chosen, choices, marked, onChoose }: Props<T>) {
  const toggle = (key: string): void =>
    onChoose(choices.map(([value]) => value).filter((value) => chosen.includes(value) !== (value === key)));
  const { menu, press } = useMenu(true);
  return (
    <Dropdown
      {...menu}
      mouseEnterDelay={0.12}
      menu={{
        multiple: true,
        selectable: true,
        selectedKeys: [...chosen],
        items: choices.map(([value, label]) => ({
          key: value,
          label: (
            <span className="set-choice">
              <span aria-hidden="true">{chosen.includes(value) ? '✓' : ''}</span> {label}
            </span>
          ),
        })),
        onClick: ({ key }) => toggle(key),
      }}
    >
      <ChoiceWords marked={marked} aria-label={`${name}: ${words}`} onClick={press}>
        {words}
      </ChoiceWords>
    </Dropdown>
  );
}
