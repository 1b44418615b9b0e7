import { JigError } from '../jigError.ts';
import { islandsOfGrips, moveGroups, wholeIslands, type WholeIsland } from '../job/grip.ts';
import type { SharedBorder } from '../images/fieldColours.ts';
import { selectionByPart } from '../job/selected.ts';
import { sheetFor } from '../job/sheets.ts';
import { nextCorner } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { edgeLengths } from '../seams/crease.ts';
import * as portable from '../numeric/portable.ts';
import { assignFields, proportionCounts, wantsQuarterTurn, type FieldGuest } from '../shape/assignFields.ts';
import { affineOf, unmoved, type UvAffine } from '../shape/transform.ts';
import { middleOf, type Box } from '../uv/box.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { allUnlocked, withLocks, withMates } from './locks.ts';
import { pictureOf } from './pictureOf.ts';
import type { Context } from '../context.ts';
import type { Job } from '../job/job.ts';

interface FieldsParams {
  fields: Box[];
  fit: 'proportion' | 'fill';
  order: 'neighbours' | 'picture' | 'reading';
  turn: boolean;
  lock: boolean;
}

/** Puts the selected islands on fields of the sheet, see `placeOnFields`. */
export async function putOnFields(job: Job, { fields, fit, order, turn, lock }: FieldsParams, context: Context) {
  const whole = selectionByPart(job).length > 0 ? job : allUnlocked(job);
  const grips = wholeIslands(whole);
  const islands = islandsOfGrips(whole, grips);
  if (islands.length === 0) throw new JigError('nothing-to-do', 'No island has a place on the sheet yet.', '', 'Unwrap first.');
  const { width, height } = sheetFor(job);
  const aspectOf = ([l, b, r, t]: Box) => ((r - l) * width) / ((t - b) * height || 1e-12);
  const aspects = fields.map(aspectOf);
  const guests = islands.map((one, k): FieldGuest => ({ aspect: aspectOf(one.box), shared: sharedBorders(islands, k) }));
  const onto = (k: number, f: number, quarters: number) => ontoField(islands[k]!.box, fields[f]!, { fit, quarters, aspect: width / height });
  let of = order === 'reading' ? islands.map((_, k) => (k < fields.length ? k : -1)) : assignFields(guests, fields, aspects);
  let quartersOf: number[] = of.map((f, k) => (f >= 0 && turn && wantsQuarterTurn(guests[k]!.aspect, aspects[f]!) ? 1 : 0));
  let difference: number | null = null;
  if (order === 'picture') {
    const picture = await pictureOf(job, context, 'compare colours in');
    const { fieldsByColour } = await import('../images/fieldColours.ts');
    const found = fieldsByColour(
      {
        islands: islands.length,
        borders: sharedPlaces(islands),
        fields,
        affine: onto,
        quarters: turn ? [0, 1, 2, 3] : [0],
        misfit: (k, f, quarters) => proportionCounts * Math.abs(portable.log((quarters % 2 === 0 ? guests[k]!.aspect : 1 / guests[k]!.aspect) / aspects[f]!)),
        picture,
      },
      of,
      (share) => {
        context.throwIfCancelled();
        context.progress(share, 'Comparing colours');
      },
    );
    of = found.field;
    quartersOf = found.quarters;
    difference = Number.isNaN(found.difference) ? null : found.difference;
  }
  const affines = islands.map((_, k): UvAffine => {
    const f = of[k]!;
    return f < 0 ? [1, 0, 0, 1, 0, 0] : onto(k, f, quartersOf[k]!);
  });
  const { job: moved } = moveGroups(whole, grips, (n) => affines[n]!);
  const placed = islands.filter((_, k) => of[k]! >= 0);
  const next = { ...(lock ? withLocks(moved, withMates(job, placed), 1) : moved), selection: job.selection };
  const used = new Set(of.filter((f) => f >= 0));
  return {
    job: next,
    report: {
      placed: placed.length,
      left: islands.filter((_, k) => of[k]! < 0).map((one) => islandLetter(one.island)),
      unused: fields.flatMap((_, f) => (used.has(f) ? [] : [f])),
      difference,
    },
  };
}

/** Length of the seams that an island shares with each of the others of its part. */
function sharedBorders(islands: readonly WholeIsland[], k: number): number[] {
  const { part, set, island } = islands[k]!;
  const { ofFace } = islandsOf(part.mesh, set);
  const { twin, cornerFace, cornerEdge } = topologyOf(part.mesh);
  const lengths = edgeLengths(part.mesh);
  const at = new Map<number, number>();
  for (let c = 0; c < twin.length; c++) {
    if (twin[c]! < 0 || ofFace[cornerFace[c]!] !== island) continue;
    const other = ofFace[cornerFace[twin[c]!]!]!;
    if (other !== island) at.set(other, (at.get(other) ?? 0) + lengths[cornerEdge[c]!]!);
  }
  return islands.map((one, j) => (j !== k && one.part === part && one.set === set ? (at.get(one.island) ?? 0) : 0));
}

/** Places along an edge, shares of its length, and how far inside the island beside it: the very border can be half of another field's px. */
const alongEdge = [0.15, 0.5, 0.85];
const inside = 0.1;

/** The borders that islands share on the model, by places just inside of both. O(corners of the parts) */
function sharedPlaces(islands: readonly WholeIsland[]): SharedBorder[] {
  const out = new Map<string, { a: number[]; b: number[]; weight: number[]; islands: [number, number] }>();
  for (const part of new Set(islands.map((one) => one.part))) {
    const own = islands.flatMap((one, k) => (one.part === part ? [k] : []));
    const { set } = islands[own[0]!]!;
    const numberOf = new Map(own.map((k) => [islands[k]!.island, k]));
    const { mesh } = part;
    const { ofFace } = islandsOf(mesh, set);
    const { twin, cornerFace, cornerEdge } = topologyOf(mesh);
    const lengths = edgeLengths(mesh);
    const middle = (f: number, d: number) => {
      let sum = 0;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) sum += set.uv[set.cornerUv[c]! * 2 + d]!;
      return sum / (mesh.faceStart[f + 1]! - mesh.faceStart[f]!);
    };
    const placeAt = (c: number, share: number): [number, number] => {
      const f = cornerFace[c]!;
      const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[nextCorner(mesh, c, f)]! * 2];
      return [0, 1].map((d) => (set.uv[p + d]! * (1 - share) + set.uv[q + d]! * share) * (1 - inside) + middle(f, d) * inside) as [number, number];
    };
    for (let c = 0; c < twin.length; c++) {
      const t = twin[c]!;
      if (t <= c) continue;
      const [i, j] = [numberOf.get(ofFace[cornerFace[c]!]!), numberOf.get(ofFace[cornerFace[t]!]!)];
      if (i === undefined || j === undefined || i === j) continue;
      const key = `${Math.min(i, j)} ${Math.max(i, j)}`;
      const into = out.get(key) ?? { a: [], b: [], weight: [], islands: [Math.min(i, j), Math.max(i, j)] };
      out.set(key, into);
      for (const share of alongEdge) {
        // the twin runs the other way
        const [here, there] = [placeAt(c, share), placeAt(t, 1 - share)];
        into.a.push(...(i < j ? here : there));
        into.b.push(...(i < j ? there : here));
        into.weight.push(lengths[cornerEdge[c]!]!);
      }
    }
  }
  return [...out.values()].map(({ a, b, weight, islands: two }) => ({
    islands: two,
    places: [Float64Array.from(a), Float64Array.from(b)],
    weight: Float64Array.from(weight),
  }));
}

/** What lays a box on a field: turned, sized, its middle on the field's. */
function ontoField(own: Box, field: Box, { fit, quarters, aspect }: { fit: 'fill' | 'proportion'; quarters: number; aspect: number }): UvAffine {
  const [u, v] = middleOf(own);
  const [fu, fv] = middleOf(field);
  const turned = affineOf({ ...unmoved, turn: 90 * quarters }, [u, v], aspect);
  const [wide, high] = [own[2] - own[0], own[3] - own[1]];
  // a quarter turn swaps the sides as they are in px
  const [w, h] = quarters % 2 === 1 ? [high / aspect, wide * aspect] : [wide, high];
  const [su, sv] = [(field[2] - field[0]) / (w || 1e-12), (field[3] - field[1]) / (h || 1e-12)];
  const [x, y] = fit === 'fill' ? [su, sv] : [Math.min(su, sv), Math.min(su, sv)];
  const [a, b, c, d, e, f] = turned;
  return [a * x, b * y, c * x, d * y, (e - u) * x + fu, (f - v) * y + fv];
}
