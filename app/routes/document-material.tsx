import { useOutletContext } from 'react-router'
import { MaterialScreen } from '../screens/material-screen'
import type { DocumentOutlet } from './document'
import type { Route } from './+types/document-material'

export const meta: Route.MetaFunction = ({ matches }) => {
  const opened = matches.find((match) => match?.id === 'routes/document')?.loaderData as
    { opened: { document: { name: string } } } | undefined
  return [{ title: `${opened?.opened.document.name ?? 'Material'} · Amber Grist` }]
}

export default function DocumentMaterial() {
  return <MaterialScreen project={useOutletContext<DocumentOutlet>().project} />
}
