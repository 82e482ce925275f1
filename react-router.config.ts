import type { Config } from '@react-router/dev/config';

export default {
  appDirectory: 'app',
  // A running demo and the tests each have a build of their own.
  buildDirectory: process.env.SHRIKE_BUILD ?? 'build',
  ssr: true,
  future: { v8_middleware: true, v8_splitRouteModules: true, v8_viteEnvironmentApi: true },
} satisfies Config;
