import type { ReactNode } from 'react';
import { useSubmit } from 'react-router';
import { SelectField } from '../../ui/field';

interface AskedProps {
  /** What else can be done with the list, at its other end. */
  children?: ReactNode;
  /** What the address asks now. */
  asked: Record<string, string>;
  choices: { name: string; label: string; options: { value: string; label: string }[] }[];
}

/** What a list shows, and in which order: kept in the address. */
export function ListAsked({ asked, choices, children }: AskedProps) {
  const submit = useSubmit();
  const choose = (name: string, value: string) => {
    const next = Object.entries({ ...asked, [name]: value }).filter(([, each]) => each !== '');
    void submit(Object.fromEntries(next), { replace: true, preventScrollReset: true });
  };
  return (
    <div
      className="flex flex-wrap items-end gap-x-5 gap-y-1 pt-2 text-glance"
      role="group"
      aria-label="What the list shows"
    >
      {choices
        .filter(({ options }) => options.length > 1)
        .map(({ name, label, options }) => (
          <SelectField
            key={name}
            label={label}
            className="min-w-28"
            value={asked[name] ?? ''}
            options={options}
            onChange={(event) => choose(name, event.target.value)}
          />
        ))}
      {children === undefined ? null : <p className="ml-auto flex gap-4 pb-1.5">{children}</p>}
    </div>
  );
}

/** Names to choose one of, or all. */
export const namesToChoose = (all: string, names: readonly string[]) => [
  { value: '', label: all },
  ...names.map((value) => ({ value, label: value })),
];

/** By what a list is sorted, each with its words, and by what it can be grouped. */
export const orders = (sorts: readonly (readonly [value: string, label: string])[], groups: readonly string[]) => [
  { name: 'sort', label: 'Sorted by', options: sorts.map(([value, label]) => ({ value, label })) },
  { name: 'group', label: 'Grouped by', options: namesToChoose('nothing', groups) },
];

/** Of which sites, owners and tags a list shows what there is. */
export const filters = ({ sites, owners, tags }: { sites: string[]; owners: string[]; tags: string[] }) => [
  { name: 'site', label: 'Site', options: namesToChoose('all sites', sites) },
  { name: 'owner', label: 'Owner', options: namesToChoose('all owners', owners) },
  { name: 'tag', label: 'Tag', options: namesToChoose('all tags', tags) },
];
