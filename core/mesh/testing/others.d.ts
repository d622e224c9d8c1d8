declare module 'bunny' {
  const mesh: { readonly positions: readonly (readonly number[])[]; readonly cells: readonly (readonly number[])[] }
  export default mesh
}
declare module 'teapot' {
  const mesh: { readonly positions: readonly (readonly number[])[]; readonly cells: readonly (readonly number[])[] }
  export default mesh
}
