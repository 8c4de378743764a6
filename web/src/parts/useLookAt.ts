import { useQueryClient } from '@tanstack/react-query';
import { useLooking } from '../ui/looking.ts';

/** Looks at everything as it was at a moment, or as it is: what was read before is read anew. */
export function useLookAt(): (at: string | null) => void {
  const client = useQueryClient();
  const lookAt = useLooking((state) => state.lookAt);
  return (at) => {
    lookAt(at);
    void client.resetQueries({
      predicate: ({ queryKey }) => queryKey[0] !== 'session' && queryKey[0] !== 'own-libraries',
    });
  };
}
