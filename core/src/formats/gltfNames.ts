export const isGlb = (bytes: Uint8Array) => bytes.length >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;

/** The file that a URI names. One with a stray percent sign is taken as it stands. */
export function decodedUri(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}
