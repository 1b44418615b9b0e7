import type { Job, JigDrive, JobJig, Part } from './job.ts';
import { bounds, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { applyJig } from '../jigs/apply.ts';
import type { Jig, JigKind } from '../jigs/jig.ts';

/** What a kind is called on the bench. */
export const jigWords: Record<JigKind, string> = {
  planar: 'Flat',
  cylindrical: 'Tube',
  spherical: 'Ball',
  box: 'Box',
  view: 'View',
  'each-face': 'Each face',
  'flat-regions': 'Flat regions',
};

const plural = (n: number, noun: string) => `${n.toLocaleString('en')} ${noun}${n === 1 ? '' : 's'}`;
const listed = (words: string[]) => (words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)!}`);

/** The state of a jig in words: “live: drives 214 faces of Beacon lens”, “written to UV set 1”. */
export function stateInWords(job: Job, { state, drives }: JobJig): string {
  const nameOf = (id: string) => job.parts.find((part) => part.id === id)?.name ?? 'a part that is gone';
  const faces = listed(
    drives.map(({ part, set, faces: list }) => {
      const sets = job.parts.find(({ id }) => id === part)?.uvSets.length ?? 1;
      return `${plural(list.length, 'face')} of ${nameOf(part)}${sets > 1 ? ` in ${set}` : ''}`;
    }),
  );
  if (state === 'written') return `written to ${listed([...new Set(drives.map(({ set }) => set))]) || 'no UV set'}`;
  if (drives.length === 0) return state === 'off' ? 'switched off' : 'drives nothing yet: select faces and add them';
  return state === 'live' ? `live: drives ${faces}` : `switched off: would drive ${faces}`;
}

/** A name that no other jig has: the kind with a number. */
export function jigName(job: Pick<Job, 'jigs'>, kind: JigKind, wanted = ''): string {
  const taken = new Set((job.jigs ?? []).map(({ name }) => name));
  const first = wanted.trim();
  if (first && !taken.has(first)) return first;
  const base = first || jigWords[kind];
  for (let k = first ? 2 : 1; ; k++) if (!taken.has(`${base} ${k}`)) return `${base} ${k}`;
}

/** The job with everything that the given live jigs drive computed again. O(corners driven). */
export function driveJigs(job: Job, ids: ReadonlySet<string>): Job {
  let { parts } = job;
  for (const { id, jig, state, drives } of job.jigs ?? []) {
    if (state !== 'live' || !ids.has(id)) continue;
    for (const drive of drives) {
      if (drive.faces.length === 0) continue;
      parts = parts.map((part) =>
        part.id === drive.part
          ? { ...part, uvSets: part.uvSets.map((set) => (set.name === drive.set ? applyJig(part.mesh, set, drive.faces, jig) : set)) }
          : part,
      );
    }
  }
  return parts === job.parts ? job : { ...job, parts };
}

/** Takes faces away from every jig but one: a face is driven by one jig in each UV set. Jigs keep their place in the list. */
export function releaseFaces(jigs: readonly JobJig[], { part, set, faces }: JigDrive, except: string): JobJig[] {
  let most = 0;
  for (let k = 0; k < faces.length; k++) most = Math.max(most, faces[k]!);
  const gone = new Uint8Array(most + 1);
  for (let k = 0; k < faces.length; k++) gone[faces[k]!] = 1;
  return jigs.map((other) => {
    if (other.id === except || other.state === 'written') return other;
    const drives = other.drives
      .map((drive) => (drive.part === part && drive.set === set ? { ...drive, faces: drive.faces.filter((f) => gone[f] !== 1) } : drive))
      .filter((drive) => drive.faces.length > 0);
    return drives.length === other.drives.length && drives.every((drive, k) => drive.faces.length === other.drives[k]!.faces.length)
      ? other
      : { ...other, drives };
  });
}

/** Do the driven faces lie elsewhere, or hang together otherwise, in another state of the same set? */
function driveTouched(mesh: Mesh, before: UvSet, after: UvSet, faces: Uint32Array): boolean {
  if (before === after) return false;
  const states = [islandsOf(mesh, before).states, islandsOf(mesh, after).states] as const;
  const { cornerEdge, twin, cornerFace } = topologyOf(mesh);
  const driven = new Uint8Array(mesh.faceStart.length - 1);
  for (const f of faces) driven[f] = 1;
  for (const f of faces) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const [a, b] = [before.cornerUv[c]! * 2, after.cornerUv[c]! * 2];
      if (before.uv[a] !== after.uv[b] || before.uv[a + 1] !== after.uv[b + 1]) return true;
      const e = cornerEdge[c]!;
      // where a driven face meets one that is not, the other may be cut off or joined
      if (states[0][e] !== states[1][e] && twin[c]! >= 0 && driven[cornerFace[twin[c]!]!]) return true;
    }
  }
  return false;
}

const sameFaces = (a: Mesh, b: Mesh) =>
  a === b || (a.faceStart.length === b.faceStart.length && a.corners.length === b.corners.length && a.corners.every((p, c) => p === b.corners[c]));

/** Live jigs whose faces an edit would change by hand; each drive is compared with what it had made. */
export function liveTouched(before: Job, after: Job): JobJig[] {
  return (before.jigs ?? []).filter(
    ({ state, drives }) =>
      state === 'live' &&
      drives.some((drive) => {
        const [was, is] = [before, after].map((job) => job.parts.find(({ id }) => id === drive.part)) as [Part | undefined, Part | undefined];
        if (!was || !is || !sameFaces(was.mesh, is.mesh)) return false;
        const [from, to] = [was, is].map((part) => part.uvSets.find(({ name }) => name === drive.set)) as [UvSet | undefined, UvSet | undefined];
        return from !== undefined && to !== undefined && was.mesh === is.mesh && driveTouched(was.mesh, from, to, drive.faces);
      }),
  );
}

/**
 * Settles the jigs after an operation that knows nothing of them: jigs whose faces were edited by hand count as written; drives of parts, sets or
 * faces that are gone end; where points moved but faces stayed, jigs that belong to the part follow its box and drive again.
 */
export function settleJigs(before: Job, after: Job): Job {
  if (!before.jigs?.length || after.jigs !== before.jigs) return after;
  const touched = new Set(liveTouched(before, after).map(({ id }) => id));
  const again = new Set<string>();
  let changed = false;
  const jigs = before.jigs.map((one): JobJig => {
    let next: JobJig = touched.has(one.id) ? { ...one, state: 'written' } : one;
    const drives = next.drives.filter((drive) => {
      const [was, is] = [before, after].map((job) => job.parts.find(({ id }) => id === drive.part));
      return was !== undefined && is !== undefined && is.uvSets.some(({ name }) => name === drive.set) && sameFaces(was.mesh, is.mesh);
    });
    if (drives.length !== next.drives.length) next = { ...next, drives };
    const home = next.drives[0] && [before, after].map((job) => job.parts.find(({ id }) => id === next.drives[0]!.part));
    if (
      next.state === 'live' &&
      next.drives.some(({ part }) => before.parts.find(({ id }) => id === part)!.mesh.points !== after.parts.find(({ id }) => id === part)!.mesh.points)
    ) {
      again.add(next.id);
      if (next.belongs === 'part' && home) next = { ...next, jig: followed(next.jig, home[0]!.mesh, home[1]!.mesh) };
    }
    if (next !== one) changed = true;
    return next;
  });
  return changed || again.size > 0 ? driveJigs({ ...after, jigs }, again) : after;
}

/** A jig moved and sized as the box of its part was. */
export function followed(jig: Jig, from: Mesh, to: Mesh): Jig {
  const [a, b] = [bounds(from), bounds(to)];
  const factor = [0, 1, 2].map((d) => (a[d + 3]! > a[d]! ? (b[d + 3]! - b[d]!) / (a[d + 3]! - a[d]!) : 1)) as [number, number, number];
  const origin = [0, 1, 2].map((d) => (b[d]! + b[d + 3]!) / 2 + (jig.origin[d]! - (a[d]! + a[d + 3]!) / 2) * factor[d]!) as Jig['origin'];
  // along each of the jig's axes the part has grown by so much
  const along = (axis: readonly number[]) => Math.hypot(...[0, 1, 2].map((d) => axis[d]! * factor[d]!)) / Math.hypot(...axis);
  const out = [
    jig.right[1] * jig.up[2] - jig.right[2] * jig.up[1],
    jig.right[2] * jig.up[0] - jig.right[0] * jig.up[2],
    jig.right[0] * jig.up[1] - jig.right[1] * jig.up[0],
  ];
  const size = [jig.size[0] * along(jig.right), jig.size[1] * along(jig.up), jig.size[2] * along(out)] as Jig['size'];
  return { ...jig, origin, size };
}
