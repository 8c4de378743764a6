import { type PersonView, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { CloseAccount } from './CloseAccount.tsx';
import { HandingOver } from './HandingOver.tsx';
import { SignIns } from './SignIns.tsx';

interface Props {
  person: PersonView;
  mayChange: boolean;
  /** The account of the one who looks. */
  own: string;
}

/** An account, with what an administrator does about it. */
export function AccountRow({ person, mayChange, own }: Props) {
  const client = useQueryClient();
  const [shown, setShown] = useState<'signIns' | 'closing' | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const { id, account, name, systemAdministrator, groups, closed, handingOver } = person;
  const leave = (): void => setShown(null);
  const open = async (): Promise<void> => {
    setProblem(null);
    await call(routes.changePerson, { params: { id }, body: { closed: false } }).catch(setProblem);
    await client.invalidateQueries();
  };
  const toggle = (part: 'signIns' | 'closing'): void => setShown(shown === part ? null : part);
  return (
    <>
      <tr>
        <th scope="row">
          {name}{' '}
          <span className="muted">
            {[...(systemAdministrator ? ['system administrator'] : []), ...(closed ? ['closed'] : [])].join(
              ', ',
            )}
          </span>
        </th>
        <td className="number">{account}</td>
        <td>{groups.join(', ')}</td>
        {mayChange && (
          <td>
            <span className="acts">
              {!closed && (
                <button
                  type="button"
                  className="quiet"
                  aria-expanded={shown === 'signIns'}
                  aria-label={`Sign-ins of ${name}`}
                  onClick={() => toggle('signIns')}
                >
                  Sign-ins
                </button>
              )}
              {account !== own && handingOver === null && (
                <button
                  type="button"
                  className="quiet"
                  aria-expanded={shown === 'closing'}
                  aria-label={closed ? `What ${name} has left` : `Close the account of ${name}`}
                  onClick={() => toggle('closing')}
                >
                  {closed ? 'Left over' : 'Close'}
                </button>
              )}
              {closed && handingOver === null && (
                <button
                  type="button"
                  className="quiet"
                  aria-label={`Open the account of ${name} again`}
                  onClick={() => void open()}
                >
                  Open again
                </button>
              )}
            </span>
          </td>
        )}
      </tr>
      {handingOver !== null && mayChange && (
        <tr className="account-part">
          <td colSpan={4}>
            <HandingOver job={handingOver} name={name} />
          </td>
        </tr>
      )}
      {(shown !== null || problem !== null) && (
        <tr className="account-part">
          <td colSpan={4}>
            <Refusal error={problem} />
            {shown === 'signIns' && <SignIns person={person} />}
            {shown === 'closing' && <CloseAccount person={person} onLeave={leave} />}
          </td>
        </tr>
      )}
    </>
  );
}
