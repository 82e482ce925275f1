import type { Route } from './+types/route';
import Page from './page';

export { action } from './act.server';
export { loader } from './load.server';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.report?.name ?? 'A new report'} · Shrike` },
];

export default Page;
