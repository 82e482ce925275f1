import type { Route } from './+types/route';
import Page from './page';

export { action } from './act.server';
export { loader } from './load.server';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  {
    title:
      `${loaderData?.kept === null ? 'A new rule' : 'A rule'} of ` +
      `${loaderData?.watch.definition.subject ?? 'a watch'} · Shrike`,
  },
];

export default Page;
