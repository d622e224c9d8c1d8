/** What is used of the package, which brings no types. */
declare module 'draco3dgltf' {
  const draco: { createDecoderModule(): Promise<unknown>; createEncoderModule(): Promise<unknown> }
  export default draco
}
