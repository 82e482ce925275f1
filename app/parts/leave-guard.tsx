import { useEffect, useRef, useState } from 'react';
import { useBlocker, useNavigate, type Location } from 'react-router';
import { Confirm } from '../ui/confirm';

/** Asks before unsaved edits are left behind, inside the app and out of it. */
export function LeaveGuard({ unsaved, what }: { unsaved: boolean; what: string }) {
  // The page refreshes itself, and each refresh lets go of what is blocked: where she was going is remembered here.
  const [going, setGoing] = useState<Location | null>(null);
  const leaving = useRef(false);
  const navigate = useNavigate();
  useBlocker(({ currentLocation, nextLocation }) => {
    if (!unsaved || leaving.current || currentLocation.pathname === nextLocation.pathname) return false;
    setGoing(nextLocation);
    return true;
  });
  useEffect(() => {
    if (!unsaved) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [unsaved]);
  return (
    <Confirm
      open={going !== null}
      title="Leave without saving?"
      go="Leave, lose the edits"
      stay="Stay"
      onGo={() => {
        leaving.current = true;
        if (going !== null) void navigate(going);
      }}
      onStay={() => setGoing(null)}
    >
      What you changed of {what} is not saved yet.
    </Confirm>
  );
}
