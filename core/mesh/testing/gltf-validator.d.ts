/** What is used of the package, which brings no types. */
declare module 'gltf-validator' {
  export function validateBytes(
    bytes: Uint8Array,
  ): Promise<{ readonly issues: { readonly numErrors: number; readonly numWarnings: number } }>
}
