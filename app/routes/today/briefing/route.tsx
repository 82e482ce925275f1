import type { Route } from './+types/route';

export { loader } from './load.server';
export { default } from './page';

export const meta: Route.MetaFunction = () => [{ title: 'Briefing · Shrike' }];
