import { useEffect, useState } from 'react';
import type { Layer } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { show } from '../../store/shown.ts';
import { coreApi, endCore, operationsRunning, run } from '../../worker/client.ts';
import type { Picker } from './pick.ts';
import { texturesReady } from './pictures.ts';
import type { Stage, ViewName } from './stage.ts';

/** What end-to-end tests need to click on the model: px of faces and edges in the page. */
export function useTestHandle(stage: Stage, picker: Picker) {
  const [handle] = useState(() => ({
    ready: () => stage.geometry !== null && stage.layout !== null && useBench.getState().sheetIndex !== null,
    rect: (view: ViewName) => stage.rects[view],
    eye: () => ({ azimuth: stage.eye.azimuth, elevation: stage.eye.elevation, distance: stage.eye.distance }),
    look: (azimuth: number, elevation: number) => {
      stage.eye.azimuth = azimuth;
      stage.eye.elevation = elevation;
      stage.invalidate('model');
    },
    /** Px in the page of the middle of an edge, and whether it is what lies under the pointer there. */
    edge: (edge: number) => {
      const { edgePoints, points } = stage.geometry!;
      const [a, b] = [edgePoints[edge * 2]! * 3, edgePoints[edge * 2 + 1]! * 3];
      const r = stage.rects.model;
      stage.eye.update(r.width, r.height);
      const [x, y] = picker.projectPlace((points[a]! + points[b]!) / 2, (points[a + 1]! + points[b + 1]!) / 2, (points[a + 2]! + points[b + 2]!) / 2);
      const hit = picker.model(x, y);
      const host = document.getElementById('views')!.getBoundingClientRect();
      return { x: host.left + r.left + x, y: host.top + r.top + y, visible: hit?.edge === edge };
    },
    place: (x: number, y: number, z: number) => {
      const r = stage.rects.model;
      stage.eye.update(r.width, r.height);
      const [px, py] = picker.projectPlace(x, y, z);
      const host = document.getElementById('views')!.getBoundingClientRect();
      return { x: host.left + r.left + px, y: host.top + r.top + py };
    },
    uv: (u: number, v: number) => {
      const r = stage.rects.sheet;
      const [px, py] = stage.sheetEye.toPx(u, v, r.width, r.height);
      const host = document.getElementById('views')!.getBoundingClientRect();
      return { x: host.left + r.left + px, y: host.top + r.top + py };
    },
    state: () => useBench.getState(),
    running: operationsRunning,
    /** Resolves when nothing that was asked for, and nothing that follows from it, is under way, and what came of it is drawn. */
    idle: async () => {
      const frames = (n: number): Promise<void> => new Promise((drawn) => requestAnimationFrame(() => (n > 1 ? void frames(n - 1).then(drawn) : drawn())));
      // what a press or a key begins is asked for within a frame
      await frames(1);
      for (;;) {
        while (operationsRunning() > 0) await frames(1);
        await coreApi().idle();
        const { progress, measuring, sheetIndex, summary } = useBench.getState();
        if (operationsRunning() === 0 && progress === null && (summary === null || (!measuring && sheetIndex !== null))) break;
        await frames(1);
      }
      await texturesReady();
      await frames(2);
    },
    /** Ends the core worker, as the browser may. */
    endCore,
    /** Colours that the model view draws at px of it, and what core says is there: red, green, blue from 0 to 255, and the share of the picture. */
    compared: async (points: readonly (readonly [number, number])[]) => (await import('./surface/compare.ts')).comparedAt(stage, picker, points),
    /** One step by hand. */
    edit: run,
    /** Shows a layer as a hand that drags one of its numbers would; null: as it is kept. */
    showLayer: (layer: Layer | null) => show({ layer }),
    /** Where both eyes are: changes with every move of a view. */
    eyes: () => [
      stage.eye.azimuth,
      stage.eye.elevation,
      stage.eye.distance,
      ...stage.eye.target.toArray(),
      stage.sheetEye.u,
      stage.sheetEye.v,
      stage.sheetEye.scale,
    ],
    /** Ends of the line between the two sides of the seam edge under the pointer, as UVs. */
    partner: () => stage.partnerShown(),
    /** UVs that the views draw now, 2 numbers a corner of each triangle: the layout's, or a preview's. */
    shownUvs: () => stage.shownUvs(),
  }));
  useEffect(() => {
    (window as unknown as { jigPeel?: unknown }).jigPeel = handle;
  }, [handle]);
}
