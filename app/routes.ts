import type { RouteConfig } from '@react-router/dev/routes'
import { index, route } from '@react-router/dev/routes'

export default [
  index('routes/projects.tsx'),
  route('jobs', 'routes/jobs.tsx'),
  route('projects/:projectId', 'routes/project.tsx'),
  route('documents/:documentId', 'routes/document.tsx', [
    index('routes/document-material.tsx'),
    route('maps', 'routes/document-maps.tsx'),
  ]),
  route('models/:modelId', 'routes/model.tsx'),
  // Resources: no page of their own.
  route('projects/:projectId/models', 'routes/project-models.ts'),
  route('models/:modelId/shown', 'routes/model-shown.ts'),
  route('models/:modelId/mesh', 'routes/model-mesh.ts'),
  route('models/:modelId/file', 'routes/model-file.ts'),
  route('models/:modelId/data/:part/:kind/:udim/:what', 'routes/mesh-data.ts'),
  route('documents/:documentId/edits', 'routes/document-edits.ts'),
  route('documents/:documentId/states', 'routes/document-states.ts'),
  route('documents/:documentId/revisions/:revision', 'routes/document-revision.ts'),
  route('documents/:documentId/picture.png', 'routes/document-picture.ts'),
  route('documents/:documentId/material.zip', 'routes/document-file.ts'),
  route('projects/:projectId/materials.zip', 'routes/project-file.ts'),
  route('deliveries/:deliveryId/maps.zip', 'routes/delivery-zip.ts'),
  route('deliveries/:deliveryId/record.json', 'routes/delivery-record.ts'),
  route('deliveries/:deliveryId/files/:index', 'routes/delivery-file.ts'),
  route('deliveries/:deliveryId/files/:index/raster', 'routes/delivery-raster.ts'),
  route('deliveries/:deliveryId/against/:otherId', 'routes/delivery-comparison.ts'),
  route('projects/:projectId/values', 'routes/project-values.ts'),
  route('projects/:projectId/packings', 'routes/project-packings.ts'),
  route('assets', 'routes/assets.ts'),
  route('assets/:sha256/file', 'routes/asset-file.ts'),
  route('assets/:sha256/raster', 'routes/asset-raster.ts'),
  route('assets/:sha256/thumbnail.png', 'routes/asset-thumbnail.ts'),
  route('events', 'routes/events.ts'),
  route('up', 'routes/up.ts'),
] satisfies RouteConfig
