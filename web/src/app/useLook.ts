import { useQueryClient } from '@tanstack/react-query';
import { useLooking } from '../ui/looking.ts';

/** Looks at everything as somebody else, or as oneself again: what was read before is read anew. */
export function useLook(): (as: string | null, name?: string) => void {
  const client = useQueryClient();
  const look = useLooking((state) => state.look);
  return (as, name) => {
    look(as, name);
    void client.resetQueries({
      predicate: ({ queryKey }) => queryKey[0] !== 'session' && queryKey[0] !== 'own-libraries',
    });
  };
}
