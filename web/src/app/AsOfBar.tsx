import { Popover } from 'antd';
import { lazy, Suspense, useState } from 'react';
import { useLookAt } from '../parts/useLookAt.ts';
import { useLooking } from '../ui/looking.ts';
import { date } from '../ui/when.ts';
import { Waiting } from '../ui/Waiting.tsx';
import './SeenAsBar.css';

// The fields of dates are not there at once.
const AsOfMoments = lazy(async () => ({ default: (await import('./AsOfMoments.tsx')).AsOfMoments }));

/** At which moment one looks. */
export function AsOfChoice({ code }: { code: string | undefined }) {
  const at = useLooking((state) => state.at);
  const [open, setOpen] = useState(false);
  const lookAt = useLookAt();
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      destroyOnHidden
      open={open}
      onOpenChange={setOpen}
      content={
        <Suspense fallback={<Waiting />}>
          <AsOfMoments
            at={at}
            code={code}
            onLeave={() => setOpen(false)}
            onChoose={(chosen) => {
              setOpen(false);
              lookAt(chosen);
            }}
          />
        </Suspense>
      }
    >
      <button type="button" className="seen-as-choice">
        As of: <strong>{at === null ? 'now' : date(at)}</strong>
      </button>
    </Popover>
  );
}
