interface Place {
  to: string;
  label: string;
  /** What stands under the same place, beside its first view. */
  views?: readonly { to: string; label: string }[];
}

/** Where sources live, and how gently the machines that serve them are asked. */
export const SITE_VIEWS = [
  { to: '/sites', label: 'Sites' },
  { to: '/hosts', label: 'Hosts' },
] as const;

/** The places under Settings, in the order in which they stand. */
export const PLACES: readonly Place[] = [
  { to: '/people', label: 'People' },
  { to: '/sites', label: 'Sites and hosts', views: SITE_VIEWS },
  { to: '/mail', label: 'Mail' },
  { to: '/retention', label: 'Retention' },
  { to: '/edits', label: 'History of edits' },
];

const isAt = (path: string, to: string): boolean => path === to || path.startsWith(`${to}/`);

/** Whether a path leads to a place, or to a view or a page of it. */
export const isOpen = ({ to, views = [] }: Place, path: string): boolean =>
  isAt(path, to) || views.some((view) => isAt(path, view.to));

/** Whether a path leads to one of them, or into it. */
export const isUnderSettings = (path: string): boolean => PLACES.some((place) => isOpen(place, path));
