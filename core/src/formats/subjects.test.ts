import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { realMeshes } from '../../../scripts/realMeshes.ts';

/* Tests on models that nobody here made are passed over where these are missing, as without a network. Not in CI: nothing passes there by itself. */
it.runIf(process.env.CI)('models that nobody here made are there', () => {
  expect(existsSync('/usr/share/assimp/models/OBJ'), 'Debian’s package assimp-testmodels').toBe(true);
  expect(existsSync(join(realMeshes, 'data', 'meshes')), 'meshes of Debian’s libcgal-demo').toBe(true);
});
