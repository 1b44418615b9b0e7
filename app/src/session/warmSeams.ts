import { cubeSphere, emptyUvSet, newJob, quietContext, runOperation, type SolverPool } from '@jig-peel/core';

/** Times that each way is gone: after so many the engine has compiled what seams on a real part need, too. */
const rounds = 4;
const ways = ['crease', 'limbs', 'flat', 'stretch'] as const;

/** A ball with six limbs, some 800 triangles. */
function sixLimbs() {
  const ball = cubeSphere(1, 8);
  const points = ball.points.slice();
  for (let p = 0; p < points.length; p += 3) {
    const along = Math.max(Math.abs(points[p]!), Math.abs(points[p + 1]!), Math.abs(points[p + 2]!));
    for (let k = p; k < p + 3; k++) points[k]! *= 1 + 2 * along ** 12;
  }
  return { ...ball, points };
}

/**
 * Works out seams on a small form a few times, so that the engine has compiled it before the first real ones: those took 1.6 times as long as the next.
 * @param turn waited for before each way; false ends it
 */
export async function warmSeams(pool: SolverPool, turn: () => Promise<boolean>): Promise<void> {
  for (let k = 0; k < rounds * ways.length; k++) {
    if (!(await turn())) return;
    const mesh = sixLimbs();
    const part = { id: 'warm', name: 'warm', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' as const } };
    await runOperation(newJob('warm', 'warm', [part]), 'propose', { by: ways[k % ways.length]! }, { ...quietContext, pool });
  }
}
