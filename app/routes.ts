import { index, layout, route, type RouteConfig } from '@react-router/dev/routes';

export default [
  layout('routes/shell/route.tsx', [
    index('routes/briefing/route.tsx'),
    route('watches', 'routes/watches/route.tsx'),
    route('watches/new', 'routes/set-up/begin.tsx'),
    route('watches/new/:draft', 'routes/set-up/route.tsx'),
    route('watches/new/:draft/try', 'routes/set-up/try.ts'),
    route('watches/new/:draft/pick', 'routes/set-up/pick.ts'),
    route('watches/new/:draft/image/:look', 'routes/set-up/image.ts'),
    route('watches/:watch', 'routes/watch/route.tsx'),
    route('watches/:watch/try', 'routes/watch/try.ts'),
    route('watches/:watch/picture/:snapshot', 'routes/watch/picture.ts'),
    route('watches/:watch/changes/:change/:side', 'routes/watch/whole-change.ts'),
    route('watches/:watch/values/:series', 'routes/watch/whole-value.ts'),
    route('hosts', 'routes/hosts/route.tsx'),
    route('sites', 'routes/sites/route.tsx'),
    route('live', 'routes/live/route.ts'),
    route('outbox', 'routes/outbox/route.tsx'),
    route('outbox/:delivery', 'routes/delivery/route.tsx'),
    route('*', 'routes/shell/missing.tsx'),
  ]),
  route('sign-in', 'routes/sign-in/route.tsx'),
  route('sign-out', 'routes/sign-out/route.ts'),
  route('first-owner', 'routes/first-owner/route.tsx'),
  route('in/:token', 'routes/posted/route.ts'),
  route('healthz', 'routes/healthz/route.ts'),
] satisfies RouteConfig;
