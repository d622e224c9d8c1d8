import type { RouteConfig } from '@react-router/dev/routes'
import { index } from '@react-router/dev/routes'

export default [index('routes/flat-view.tsx')] satisfies RouteConfig
