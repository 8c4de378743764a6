import { Dropdown, type MenuProps } from 'antd';
import { type ReactElement, useState } from 'react';
import { has } from './has.ts';
import './FindMenu.css';

/** So many are found by looking. */
const atAGlance = 12;
/** So many are laid out at a time. */
const most = 50;

/** Takes the keys once it is in sight: before the menu has its place, nothing in it can. */
const focusInSight = (field: HTMLInputElement | null): (() => void) | undefined => {
  if (!field) return undefined;
  const seen = new IntersectionObserver((entries) => {
    if (!entries.some(({ isIntersecting }) => isIntersecting)) return;
    field.focus();
    if (document.activeElement === field) seen.disconnect();
  });
  seen.observe(field);
  return () => seen.disconnect();
};

interface FindMenuProps {
  /** What stands first, whatever is looked for elsewhere. */
  first?: NonNullable<MenuProps['items']>;
  /** What is chosen among, found by its label or its other words. */
  items: readonly { key: string; label: string; words?: string }[];
  /** What the field to find by is called: "Find a library". */
  find: string;
  selected?: string;
  onChoose: (key: string) => void;
  /** What is pressed to open it. */
  children: ReactElement;
}

/** A menu of what may be many: it is found by typing then, and Enter takes the first that fits. */
export function FindMenu({ first = [], items, find, selected, onChoose, children }: FindMenuProps) {
  const [open, setOpen] = useState(false);
  const [sought, setSought] = useState('');
  const found = items.filter(({ label, words = '' }) => has([label, words], sought));
  const choose = (key: string): void => {
    setOpen(false);
    onChoose(key);
  };
  const note = (label: string): NonNullable<MenuProps['items']> => [
    { key: 'note', type: 'group' as const, label },
  ];
  const rest = found.length - most;
  return (
    <Dropdown
      trigger={['click']}
      destroyOnHidden
      open={open}
      onOpenChange={(opened) => {
        setOpen(opened);
        setSought('');
      }}
      menu={{
        selectedKeys: selected === undefined ? [] : [selected],
        className: 'find-menu-list',
        items: [
          ...(sought === '' ? first : []),
          ...found.slice(0, most).map(({ key, label }) => ({ key, label })),
          ...(rest > 0 ? note(`${rest} more: type to find them`) : []),
          ...(found.length === 0 && sought !== '' ? note('Nothing fits') : []),
        ],
        onClick: ({ key }) => choose(key),
      }}
      popupRender={(menu) =>
        items.length <= atAGlance ? (
          menu
        ) : (
          <div className="find-menu">
            <input
              ref={focusInSight}
              type="search"
              value={sought}
              aria-label={find}
              placeholder={find}
              onChange={(event) => setSought(event.target.value)}
              onKeyDown={({ key }) => {
                const [fits] = found;
                if (key === 'Enter' && sought !== '' && fits) choose(fits.key);
              }}
            />
            {menu}
          </div>
        )
      }
    >
      {children}
    </Dropdown>
  );
}
