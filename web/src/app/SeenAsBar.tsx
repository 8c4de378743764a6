import { EyeIcon } from '@phosphor-icons/react';
import type { Library } from '@polychron/contract';
import { sightRoles } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { membersQuery, ownLibrariesQuery } from '../parts/queries.ts';
import { FindMenu } from '../ui/FindMenu.tsx';
import { useLooking } from '../ui/looking.ts';
import './SeenAsBar.css';

const roleNames = sightRoles.map((role) => [role, `any ${role}`] as const);

/** Looks at everything as somebody else, or as oneself again: what was read before is read anew. */
function useLook(): (as: string | null, name?: string) => void {
  const client = useQueryClient();
  const look = useLooking((state) => state.look);
  return (as, name) => {
    look(as, name);
    void client.resetQueries({
      predicate: ({ queryKey }) => queryKey[0] !== 'session' && queryKey[0] !== 'own-libraries',
    });
  };
}

/** As whom one sees the library, for its controllers. */
export function SeenAsChoice({ library }: { library: Pick<Library, 'id'> }) {
  const { as, name } = useLooking();
  const look = useLook();
  const { data: own } = useQuery(ownLibrariesQuery);
  const maySeeAs = own?.items.find(({ id }) => id === library.id)?.acts.seeAs.allowed ?? false;
  const { data } = useQuery({ ...membersQuery(library.id), enabled: maySeeAs });
  if (!maySeeAs) return null;
  const people =
    data?.members.flatMap((member) => (member.account ? [[member.account, member.name] as const] : [])) ?? [];
  return (
    <FindMenu
      find="Find a member"
      selected={as ?? ''}
      first={[
        { key: '', label: 'me' },
        { type: 'divider' as const },
        ...roleNames.map(([role, words]) => ({ key: `role:${role}`, label: words })),
        { type: 'divider' as const },
      ]}
      items={people.map(([account, person]) => ({ key: account, label: person, words: account }))}
      onChoose={(key) =>
        look(
          key || null,
          roleNames.find(([role]) => key === `role:${role}`)?.[1] ??
            people.find(([account]) => account === key)?.[1] ??
            '',
        )
      }
    >
      <button type="button" className="seen-as-choice">
        Seen as: <strong>{as === null ? 'me' : name}</strong>
      </button>
    </FindMenu>
  );
}

/** Says, over the whole frame, as whom one sees it, and offers the way back. */
export function SeenAsBanner() {
  const { as, name } = useLooking();
  const look = useLook();
  if (as === null) return null;
  return (
    <div className="seen-as-banner" role="status">
      <EyeIcon size={17} weight="bold" />{' '}
      <span>
        You see this as <strong>{name}</strong> would, and can only look.
      </span>
      <button type="button" className="quiet" onClick={() => look(null)}>
        Back to me
      </button>
    </div>
  );
}
