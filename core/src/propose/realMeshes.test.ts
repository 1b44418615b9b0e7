import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { emptyUvSet } from '../uv/uvSet.ts';
import { proposeSeams } from './proposeSeams.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';

/*
 * Meshes that nobody here made, of Debian's libcgal-demo. `npm test` fetches them; without them these tests are passed over.
 */
describe.skipIf(!existsSync(join(realMeshes, 'data')))('seams by a stretch limit on real closed meshes', () => {
  it.each([
    ['pig', 0.6],
    ['head', 0.5],
    ['knot1', 0.6],
    ['rotor', 0.6],
    ['triceratops', 0.6],
  ] as const)(
    '%s: the limit is kept, no flip, most of the seams hidden',
    async (name, hidden) => {
      const mesh = realMesh(name);
      const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.2 });
      expect(proposal.met).toBe(true);
      expect(proposal.energy).toBeLessThan(4.23);
      expect(proposal.flips).toBe(0);
      expect(proposal.hiddenHalf).toBeGreaterThan(hidden);
    },
    60_000,
  );
});
