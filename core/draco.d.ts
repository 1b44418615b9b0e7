/* Google's decoder for Draco (Apache-2.0) has no types of its own. */
declare module 'draco3dgltf/draco_decoder_gltf_nodejs.js' {
  const make: (options: { wasmBinary?: ArrayBuffer }) => Promise<unknown>;
  export default make;
}
declare module 'draco3dgltf' {
  export function createEncoderModule(options: object): Promise<unknown>;
  export function createDecoderModule(options: object): Promise<unknown>;
}
