/** The places under Settings, in the order in which they stand. */
export const PLACES = [
  { to: '/people', label: 'People' },
  { to: '/sites', label: 'Sites' },
  { to: '/hosts', label: 'Hosts' },
  { to: '/mail', label: 'Mail' },
  { to: '/retention', label: 'Retention' },
  { to: '/edits', label: 'History of edits' },
] as const;

/** Whether a path leads to one of them, or into it. */
export const isUnderSettings = (path: string): boolean =>
  PLACES.some(({ to }) => path === to || path.startsWith(`${to}/`));
