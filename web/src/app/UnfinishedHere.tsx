import { useLocation } from 'react-router-dom';
import { UnfinishedList } from '../parts/unfinished/UnfinishedList.tsx';
import { useUnfinishedForms } from '../ui/unfinished.ts';

/** What was begun on this page and not sent, as far as it is not on the screen already. */
export function UnfinishedHere() {
  const { pathname } = useLocation();
  const { forms, shown, keepsNothing } = useUnfinishedForms();
  const here = [...forms.values()].filter(
    ({ key, path }) => !shown.has(key) && path.split('?')[0] === pathname,
  );
  if (here.length === 0 && !keepsNothing) return null;
  return (
    <section className="unfinished-here" aria-label="Unfinished here">
      {keepsNothing && <p>This browser keeps nothing: what you type is lost when you leave the page.</p>}
      <UnfinishedList forms={here} />
    </section>
  );
}
