import { ask, askJson } from '../../session/ask'
import type { StoredPacking } from '../../contracts/stored-packing'
import type { PackingHost, PackingStep } from './packing-store'

const RETRY = 1500

/** The server and this tab's storage, for the packings of a project. */
export function browserHost(project: string): PackingHost {
  const address = `/projects/${project}/packings`
  const key = (name: string): string => `amber-grist-packing-steps:${project}:${name}`
  const call = async (method: 'PUT' | 'DELETE', body: object): Promise<Response> => {
    const response = await askJson(address, method, body)
    if (response.status >= 500) throw new Error(`the server answered ${response.status}`)
    return response
  }
  return {
    save: async (packing, base) => {
      const response = await call('PUT', { packing, base })
      const json = (await response.json()) as StoredPacking & { error?: string }
      return response.ok ? { status: 200, stored: json } : { status: response.status, error: json.error }
    },
    list: async () => {
      const response = await ask(address)
      if (!response.ok) throw new Error(`the server answered ${response.status}`)
      return (await response.json()) as StoredPacking[]
    },
    remove: async (name) => void (await call('DELETE', { name })),
    remember: (name, steps) => {
      try {
        sessionStorage.setItem(key(name), JSON.stringify(steps))
      } catch {
        // Full or forbidden: steps then end with the page.
      }
    },
    recall: (name) => {
      try {
        const text = sessionStorage.getItem(key(name))
        if (text) return JSON.parse(text) as { undo: PackingStep[]; redo: PackingStep[] }
      } catch {
        // On the server there is no storage, in some browsers none is allowed.
      }
      return { undo: [], redo: [] }
    },
    later: (work) => void setTimeout(work, RETRY),
  }
}
