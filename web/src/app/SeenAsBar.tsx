import type { Library } from '@polychron/contract';
import { sightRoles } from '@polychron/core';
import { useQuery } from '@tanstack/react-query';
import { membersQuery, ownLibrariesQuery } from '../parts/queries.ts';
import { FindMenu } from '../ui/FindMenu.tsx';
import { useLooking } from '../ui/looking.ts';
import { useLook } from './useLook.ts';
import './SeenAsBar.css';

const roleNames = sightRoles.map((role) => [role, `any ${role}`] as const);

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
