import { createContext, useContext } from 'react'

/** Request header in which the server hands the page's nonce to the renderer. */
export const NONCE_HEADER = 'x-page-nonce'

/** The nonce that scripts in the page carry; empty in the browser, which hides it. */
export const Nonce = createContext('')
export const useNonce = (): string => useContext(Nonce)
