import type { Route } from './+types/route';

export { action } from './act.server';
export { loader } from './load.server';
export { default } from './page';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.watch.definition.subject ?? 'Watch'} · Shrike` },
];
