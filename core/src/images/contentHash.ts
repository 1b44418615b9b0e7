import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';

const known = new WeakMap<Uint8Array, string>();

/** SHA-256 of the bytes as 64 hexadecimal digits; worked out once for each array. The same picture has the same name wherever it came from. */
export function contentHash(bytes: Uint8Array): string {
  let hash = known.get(bytes);
  if (hash === undefined) known.set(bytes, (hash = bytesToHex(sha256(bytes))));
  return hash;
}
