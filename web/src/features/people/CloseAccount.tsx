import { type ChangedPerson, type PersonView, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { SuccessorField } from './TakingOver.tsx';

/**
 * Closes an account: shows what its holder answers for, and who takes it over, before it is done. Of one that
 * is closed, what is left.
 */
export function CloseAccount({ person, onLeave }: { person: PersonView; onLeave: () => void }) {
  const client = useQueryClient();
  const { id, name, account, closed } = person;
  const [successor, setSuccessor] = useState<{ account: string; name: string } | null>(null);
  const handOverTo = successor ? { handOverTo: successor.account } : {};
  const { data, error } = useQuery({
    queryKey: ['closing', id, successor?.account ?? ''],
    queryFn: () =>
      call(routes.changePerson, { params: { id }, body: { closed: true, rehearse: true, ...handOverTo } }),
    placeholderData: (before) => before,
  });
  if (!data) return <Refusal error={error} />;
  const { handOver, unmanaged } = data;
  const unfit = handOver.flatMap(({ library, refusals }) =>
    refusals.map(({ detail, documents }) => `${library.name}, ${documentsIn(documents)}: ${detail}`),
  );
  const close = async (): Promise<void> => {
    await call(routes.changePerson, { params: { id }, body: { closed: true, ...handOverTo } });
    await client.invalidateQueries();
  };
  const ready = unmanaged === null && unfit.length === 0 && (handOver.length === 0 || successor !== null);
  const label = closed ? 'Hand over' : `Close the account`;
  const outcome = successor ? `${label}${closed ? '' : ', hand over'} to ${successor.name}` : label;
  const nothingLeft = closed && handOver.length === 0;
  return (
    <Consequences
      outcomes={ready && !nothingLeft ? [{ label: outcome, act: close, primary: true }] : []}
      onLeave={onLeave}
    >
      {!closed && <>{signInsInWords(name, data)} The account can be opened again with its roles. </>}
      {nothingLeft && <>{name} answers for nothing any more.</>}
      {unmanaged !== null && <>{unmanaged} would have no controller: name another first. </>}
      {handOver.map((part) => (
        <span key={part.library.id} className="closing-line">
          In {part.library.name} {name} {chargesInWords(part)}.
        </span>
      ))}
      {handOver.length > 0 && (
        <span className="closing-line">
          All of it goes to <SuccessorField value={successor} without={account} onChoose={setSuccessor} />
        </span>
      )}
      {unfit.map((line) => (
        <span key={line} className="closing-line problem" role="alert">
          {line}
        </span>
      ))}
    </Consequences>
  );
}

const documentsIn = (count: number): string => (count === 1 ? '1 document' : `${count} documents`);
const counted = (count: number, one: string, many: string): string[] =>
  count === 0 ? [] : [`${count} ${count === 1 ? one : many}`];

function signInsInWords(name: string, { sessions, tokens }: ChangedPerson): string {
  const ending = [...counted(sessions, 'session', 'sessions'), ...counted(tokens, 'token', 'tokens')];
  const verb = sessions + tokens === 1 ? 'ends' : 'end';
  const ends = ending.length === 0 ? '' : ` ${ending.join(' and ')} ${verb} at once.`;
  return `${name} can no longer sign in and holds no role then.${ends}`;
}

function chargesInWords(part: ChangedPerson['handOver'][number]): string {
  const documents = (count: number, verb: string): string[] =>
    count === 0 ? [] : [`${verb} ${documentsIn(count)}`];
  return [
    ...documents(part.owns, 'owns'),
    ...documents(part.coAuthors, 'is a co-author of'),
    ...documents(part.holds, 'holds'),
    ...documents(part.decides, 'is asked to decide about'),
    ...documents(part.approves, 'is named as approver of'),
    ...documents(part.setAside, 'has copies set aside of'),
  ].join(', ');
}
