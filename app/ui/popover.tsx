import { Popover as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** A small sheet that opens beside what it changes. Escape and a click outside close it. */
export function Popover({
  trigger,
  label,
  children,
  wide = false,
}: {
  trigger: ReactNode;
  label: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Radix.Root>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          aria-label={label}
          sideOffset={8}
          align="start"
          collisionPadding={12}
          className={
            'z-20 max-h-[70vh] overflow-y-auto border border-ink bg-page p-4 text-read text-ink ' +
            `${wide ? 'w-[min(480px,calc(100vw-24px))]' : 'w-[min(320px,calc(100vw-24px))]'}`
          }
        >
          {children}
          <Radix.Close className="sr-only focus:not-sr-only">Close</Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
