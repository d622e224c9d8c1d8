import type { Config } from '@react-router/dev/config'

export default {
  ssr: true,
  // A build empties its folder; what the server's threads run (build/node) is made beside it.
  buildDirectory: 'build/web',
  // All routes are known from the start: a revalidation that comes while routes are looked up would lose a navigation.
  routeDiscovery: { mode: 'initial' },
  future: { v8_middleware: true, v8_splitRouteModules: true, v8_viteEnvironmentApi: true },
} satisfies Config
