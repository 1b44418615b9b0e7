import { create } from 'zustand';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';

export interface Pairing {
  /** The jig whose picture is laid on the points, by id. */
  jig: string;
  points: [number, number, number][];
  /** u and v in the picture. */
  places: [number, number][];
}

/** Two points of the model and where in the picture they are, as they are pointed at; null: they are not asked for. */
export const usePairing = create<{ pairing: Pairing | null }>(() => ({ pairing: null }));

/** Takes a point of the model; false while its place in the picture is asked for. */
export function takePoint(point: [number, number, number]): boolean {
  const { pairing } = usePairing.getState();
  if (!pairing || pairing.points.length !== pairing.places.length) return false;
  usePairing.setState({ pairing: { ...pairing, points: [...pairing.points, point] } });
  return true;
}

/** Takes a place in the picture; with the second the picture is laid on the points. */
export function takePlace(place: [number, number]): boolean {
  const { pairing } = usePairing.getState();
  if (!pairing || pairing.points.length === pairing.places.length) return false;
  const places = [...pairing.places, place];
  usePairing.setState({ pairing: { ...pairing, places } });
  if (places.length < 2) return true;
  endPairs();
  void run('fitFrame', { id: pairing.jig, points: pairing.points, places }, true);
  return true;
}

/** No longer asks for points. */
export function endPairs(): void {
  usePairing.setState({ pairing: null });
  const { tool, set } = useBench.getState();
  if (tool === 'pair') set({ tool: 'select' });
}
