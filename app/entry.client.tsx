import { startTransition, StrictMode } from 'react'
import { hydrateRoot } from 'react-dom/client'
import { HydratedRouter } from 'react-router/dom'
import { outlivingThePage } from './session/outliving-the-page'

// The router has no setting for how it fetches.
window.fetch = outlivingThePage(window.fetch.bind(window))

startTransition(() => {
  hydrateRoot(
    document,
    <StrictMode>
      <HydratedRouter />
    </StrictMode>,
  )
})
