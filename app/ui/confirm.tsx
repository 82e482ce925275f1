import { AlertDialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { Button } from './button';

interface ConfirmProps {
  open: boolean;
  title: string;
  children: ReactNode;
  /** The word on the button that goes ahead, and the one that stays. */
  go: string;
  stay: string;
  onGo: () => void;
  onStay: () => void;
}

/** Asks before something is lost. The safe answer has the focus. */
export function Confirm({ open, title, children, go, stay, onGo, onStay }: ConfirmProps) {
  return (
    <AlertDialog.Root open={open} onOpenChange={(next) => (next ? undefined : onStay())}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-30 bg-ink/25" />
        <AlertDialog.Content className="fixed top-1/3 left-1/2 z-40 w-[min(440px,calc(100vw-32px))] -translate-x-1/2 -translate-y-1/3 border-t-2 border-ink bg-page p-6 text-ink">
          <AlertDialog.Title className="font-serif text-day font-medium">{title}</AlertDialog.Title>
          <AlertDialog.Description asChild>
            <div className="mt-2 text-second">{children}</div>
          </AlertDialog.Description>
          <div className="mt-5 flex justify-end gap-3">
            <AlertDialog.Cancel asChild>
              <Button>{stay}</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button weight="strong" onClick={onGo}>
                {go}
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
