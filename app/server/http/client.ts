/** Carries the address of who asks from server.ts to the routes; whatever a client sends under this name is overwritten. */
export const CLIENT_HEADER = 'x-grist-client'
