import type { Route } from './+types/route';
import Page from './page';

export { loader } from './load.server';

export const meta: Route.MetaFunction = () => [{ title: 'Briefing · Shrike' }];

export default Page;
