import { useEffect, useState } from 'react'
import { v4 as uuid } from 'uuid'
import { useEvents } from '../events/use-events'
import { ask, askJson } from '../ask'
import type { EditingControl, EditingHost, OpenedDocument } from './document-store'
import { openEditing } from './document-store'
import type { Edit } from '#core/document/patches'

const RETRY = 1500

/** What can be done with an open document in this tab. It never makes anything render: components select what they show. */
export function useEditing(id: string, opened: OpenedDocument): EditingControl {
  const [{ control, key }] = useState(() => {
    const key = `${prefix(id)}${uuid()}`
    return { key, control: openEditing(opened, browserHost(id, key)) }
  })

  // This tab's unsent edits are its own as long as it holds the lock of their name.
  useEffect(() => {
    let release: (() => void) | null = null
    const locked = new Promise<void>((resolve) => (release = resolve))
    void navigator.locks?.request(key, () => locked)
    void adoptLeftovers(id, control)
    const online = (): void => control.retry()
    // A gesture under way when the tab is closed is kept as far as it got.
    window.addEventListener('pagehide', control.drop)
    window.addEventListener('online', online)
    return () => {
      release?.()
      window.removeEventListener('pagehide', control.drop)
      window.removeEventListener('online', online)
    }
  }, [id, key, control])

  // The head is told at each connection, so what was saved while there was none is heard of too.
  useEvents([`document:${id}`], (notice) => {
    if (notice.type === 'document' && notice.id === id) control.remote(notice.head)
  })
  return control
}

const prefix = (id: string): string => `amber-grist-unsent:${id}:`

async function adoptLeftovers(id: string, control: EditingControl): Promise<void> {
  const adopt = async (key: string): Promise<void> => {
    const text = localStorage.getItem(key)
    if (!text) return
    localStorage.removeItem(key)
    await control
      .adopt(JSON.parse(text) as { head: number; edits: Edit[] })
      .catch(() => localStorage.setItem(key, text))
  }
  for (const key of Object.keys(localStorage).filter((one) => one.startsWith(prefix(id))))
    // Without locks (plain HTTP from another machine) a living tab's edits may be sent by two: their ids count once.
    if (navigator.locks)
      await navigator.locks.request(key, { ifAvailable: true }, (lock) => (lock ? adopt(key) : undefined))
    else await adopt(key)
}

function browserHost(id: string, key: string): EditingHost {
  const address = `/documents/${id}/edits`
  return {
    send: async (base, edits) => {
      const response = await askJson(address, 'POST', { base, edits })
      // A fault may answer with a page.
      const answer = (await response.json().catch(() => ({}))) as { head?: number; error?: string }
      return { status: response.status, ...answer }
    },
    since: async (head) => {
      const edits: Edit[] = []
      for (;;) {
        const response = await ask(`${address}?since=${head + edits.length}`)
        if (!response.ok) throw new Error(`the server answered ${response.status}`)
        const page = (await response.json()) as { head: number; edits: Edit[]; hasMore: boolean }
        edits.push(...page.edits)
        if (!page.hasMore) return { head: page.head, edits }
      }
    },
    name: async (revision, name) => {
      const response = await askJson(`/documents/${id}/states`, 'POST', { revision, name })
      if (!response.ok) throw new Error(`the server answered ${response.status}`)
    },
    storeUnsent: (unsent) => {
      try {
        if (unsent) localStorage.setItem(key, JSON.stringify(unsent))
        else localStorage.removeItem(key)
      } catch {
        // Storage is full or forbidden: edits live in this tab until they are sent, as the save state says.
      }
    },
    later: (work) => void setTimeout(work, RETRY),
  }
}
