import { useLocation } from 'react-router-dom';
import { UnfinishedList } from '../parts/unfinished/UnfinishedList.tsx';
import { useUnfinishedForms } from '../ui/unfinished.ts';

/** Whether a form belongs to a page, or to one beneath a document's. */
function isAt(pathname: string, path: string): boolean {
  const [own = ''] = path.split('?');
  return own === pathname || (/\/documents\/[^/]+$/.test(pathname) && own.startsWith(`${pathname}/`));
}

/** What was begun on this page and not sent, as far as it is not on the screen already. */
export function UnfinishedHere() {
  const { pathname } = useLocation();
  const { forms, shown, keepsNothing } = useUnfinishedForms();
  const here = [...forms.values()].filter(({ key, path }) => !shown.has(key) && isAt(pathname, path));
  if (here.length === 0 && !keepsNothing) return null;
  return (
    <section className="unfinished-here" aria-label="Unfinished here">
      {keepsNothing && <p>This browser keeps nothing: what you type is lost when you leave the page.</p>}
      <UnfinishedList forms={here} at={pathname} />
    </section>
  );
}
