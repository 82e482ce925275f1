import { DropdownMenu } from 'radix-ui';

interface MenuItem {
  label: string;
  onSelect: () => void;
}

/** The things that are seldom done, behind one button. */
export function Menu({ label, items }: { label: string; items: MenuItem[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={label}
        className="inline-flex h-[30px] items-center rounded-[2px] border border-third px-3 font-semibold hover:border-ink"
      >
        …
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-20 min-w-44 border border-ink bg-page py-1 text-read text-ink"
        >
          {items.map((item) => (
            <DropdownMenu.Item
              key={item.label}
              onSelect={item.onSelect}
              className="cursor-pointer px-4 py-1.5 outline-none data-[highlighted]:bg-paper data-[highlighted]:text-chestnut"
            >
              {item.label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
