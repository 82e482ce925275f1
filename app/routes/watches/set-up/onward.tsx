import { Button } from '../../../ui/button';

/** The button that leads on, when a step has what it needs. */
export function Onward({ to, onGo, ready }: { to: string; onGo: () => void; ready: boolean }) {
  return (
    <Button weight={ready ? 'strong' : 'plain'} className="mt-6" onClick={onGo}>
      {to}
    </Button>
  );
}
