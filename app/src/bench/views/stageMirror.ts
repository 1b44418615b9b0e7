import { useEffect, useMemo } from 'react';
import type { Texture } from 'three';
import { tileExtent, tileImages, type TileImage } from '@jig-peel/core';
import type { JobSummary, LayoutView, SheetPart } from '../../session/messages.ts';
import { useBench, type BenchState } from '../../store/bench.ts';
import { usePreferences } from '../../store/preferences.ts';
import { show, useShown } from '../../store/shown.ts';
import { coreApi } from '../../worker/client.ts';
import { gathered } from './gathered.ts';
import { bringIntoModel, frameSelection, keepWhole } from './framing.ts';
import type { Picker } from './pick.ts';
import { gridTexture, imageTexture, tilesTexture } from './pictures.ts';
import type { Stage } from './stage.ts';

const noImages: JobSummary['images'] = [];

/** Carries what changes in the store over to the stage. */
export function useStageMirror(stage: Stage, picker: Picker) {
  const mode = usePreferences((s) => s.mode);
  const imageId = useBench((s) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.imageId ?? null);
  const images = useBench((s) => s.summary?.images ?? noImages);
  const imageTiles = useMemo(() => (imageId ? tileImages(images, imageId) : null), [images, imageId]);
  // images that come and go beside those of the tiles change nothing
  const tileKey = JSON.stringify(imageTiles);
  const gridRepeat = useBench((s) => s.summary?.settings.gridRepeat ?? 1);
  const gridKind = useBench((s) => s.summary?.settings.gridKind);
  const gridSize = useBench((s) => s.summary?.settings.gridSize);
  const sheet = useBench((s) => (s.summary ? s.summary.settings.width / s.summary.settings.height : 1));
  const tiles = useBench((s) => tilesOf(s.summary));
  useEffect(() => stage.setMode(mode), [stage, mode]);
  useEffect(() => {
    stage.setTiles(tiles);
    keepWhole(stage, 'sheet');
  }, [stage, tiles]);
  useEffect(() => {
    stage.sheetEye.aspect = sheet;
    stage.invalidate('sheet');
  }, [stage, sheet]);
  useEffect(() => {
    if (!gridKind || !gridSize) return;
    let current = true;
    void gridTexture(gridKind, gridSize).then((grid) => {
      if (!current) return;
      stage.setPictures({ grid, repeats: gridRepeat });
      stage.setLook(useBench.getState());
    });
    return () => {
      current = false;
    };
  }, [stage, gridKind, gridSize, gridRepeat]);
  useEffect(() => {
    let current = true;
    const tiles = JSON.parse(tileKey) as TileImage[] | null;
    const show = (image: Texture | null) => {
      if (!current) return;
      stage.setPictures({ image, tiles: tiles && tileExtent(tiles) });
      stage.setLook(useBench.getState());
    };
    if (!imageId) show(null);
    else
      void (tiles ? tilesTexture(tiles) : imageTexture(imageId)).then((texture) => {
        show(texture);
        if (!texture && current) useBench.getState().notice('This image cannot be drawn: it may be cut short. The test grid is shown instead.', 'warning');
      });
    return () => {
      current = false;
    };
  }, [stage, imageId, tileKey]);
  useEffect(() => {
    const first = useBench.getState();
    if (first.geometry) stage.setGeometry(first.geometry);
    showLayout(stage);
    stage.setPlacement(placementOf(first), first);
    const contexts = gathered(useBench.getState, (s) => showContexts(stage, s));
    const sheetParts = gathered(useBench.getState, (s) => showSheetParts(stage, s));
    stage.setAlsoOnModel(marksOnModel(first));
    contexts.now(first);
    sheetParts.now(first);
    // straight from the store: an effect of a component would wait for the next frame
    const paintOn = useBench.subscribe((s, before) => {
      if (s.geometry !== before.geometry && s.geometry) {
        stage.setGeometry(s.geometry);
        // one that was picked on the sheet leaves that view as it is
        if (before.geometry && s.frameAsked === before.frameAsked) requestAnimationFrame(() => bringIntoModel(stage));
      }
      const part = s.summary?.parts.find((p) => p.id === s.summary?.activePart);
      if (part && stage.geometry?.part === part.id && (part.hidden ?? null) !== stage.hidden) {
        stage.setHidden(part.hidden ?? null);
        stage.paint(s);
      }
      if (s.layout !== before.layout) showLayout(stage);
      if (
        s.summary?.selection !== before.summary?.selection ||
        s.summary?.selectedParts !== before.summary?.selectedParts ||
        s.kind !== before.kind ||
        s.overlay !== before.overlay ||
        s.stretchMap !== before.stretchMap ||
        (s.measures !== before.measures && (s.overlay === 'stretch' || s.fault !== 'none')) ||
        s.density !== before.density ||
        s.fault !== before.fault ||
        s.closeFaces !== before.closeFaces ||
        ((s.station === 'seams' || before.station === 'seams') && (s.station !== before.station || marksOf(s) !== marksOf(before)))
      )
        stage.paint(s);
      if (placementOf(s) !== placementOf(before) && !useShown.getState().placement) stage.setPlacement(placementOf(s), s);
      if (showsStrokes(s) && s.layout && (!showsStrokes(before) || s.layout !== before.layout)) askStrokes(s.layout);
      if (s.overlay === 'density' && s.layout && (s.overlay !== before.overlay || s.layout !== before.layout)) askDensity(s.layout);
      if (showsGrain(s) && s.layout && (!showsGrain(before) || s.layout !== before.layout || grainOf(s) !== grainOf(before))) askGrain(s.layout);
      if (s.grain !== before.grain || showsGrain(s) !== showsGrain(before)) stage.setGrain(showsGrain(s) ? s.grain : null);
      if (s.notches && s.layout && (!before.notches || s.layout !== before.layout)) askNotches(s.layout);
      if (s.look !== before.look) stage.setLook(s);
      if (s.drawn !== before.drawn) stage.setDragging(s.drawn !== null);
      if (
        s.summary !== before.summary ||
        s.hoverPart !== before.hoverPart ||
        s.look.context !== before.look.context ||
        s.kind !== before.kind ||
        s.geometry !== before.geometry
      )
        contexts.now(s);
      else if (s.contexts !== before.contexts) contexts.soon();
      if (
        s.summary?.parts !== before.summary?.parts ||
        s.summary?.selection !== before.summary?.selection ||
        marksBeside(s) !== marksBeside(before) ||
        s.layout !== before.layout ||
        s.kind !== before.kind
      )
        sheetParts.now(s);
      else if (s.sheetParts !== before.sheetParts) sheetParts.soon();
      if (marksOnModel(s) !== marksOnModel(before)) stage.setAlsoOnModel(marksOnModel(s));
      if (
        s.layout !== before.layout ||
        s.hover !== before.hover ||
        s.hoverOther !== before.hoverOther ||
        s.hoverMarks !== before.hoverMarks ||
        s.penEdges !== before.penEdges ||
        s.kind !== before.kind
      )
        stage.hover(s);
      if (s.penUncuts !== before.penUncuts) stage.setPenColor(s.penUncuts);
      if (s.sheetIndex !== before.sheetIndex) picker.setIndex(s.sheetIndex);
      if (s.frameAsked !== before.frameAsked) requestAnimationFrame(() => frameSelection(stage));
      if (s.viewAsked !== before.viewAsked && s.viewAsked) {
        stage.eye.look(s.viewAsked.name as never);
        stage.invalidate('model');
      }
    });
    const showOn = useShown.subscribe((now, before) => {
      if (now.uvs !== before.uvs) {
        if (now.uvs) stage.showPreview(now.uvs.preview, now.uvs.badly);
        else stage.endPreview();
      }
      if (now.placement !== before.placement) stage.setPlacement(now.placement ?? placementOf(useBench.getState()), useBench.getState());
    });
    picker.setIndex(useBench.getState().sheetIndex);
    return () => {
      paintOn();
      showOn();
      contexts.stop();
      sheetParts.stop();
      show({ uvs: null, placement: null, jig: null, layer: null });
    };
  }, [stage, picker]);
  const isLayered = useBench((s) => hasAnyLayers(s.summary));
  useEffect(() => {
    if (!isLayered) return;
    let end: (() => void) | null = null;
    let current = true;
    void import('./surface/attach.ts').then(({ attachSurface }) => {
      if (current) end = attachSurface(stage);
    });
    return () => {
      current = false;
      end?.();
    };
  }, [stage, isLayered]);
  useEffect(() => () => stage.dispose(), [stage]);
}

const hasAnyLayers = (summary: BenchState['summary']) =>
  (summary?.materialLayers.length ?? 0) > 0 ||
  summary?.parts.some(({ layers, imageId, unplaced, faces }) => layers !== null || (imageId !== null && unplaced === faces)) === true;

/** Tiles of the sheet that is shown. */
export function tilesOf(summary: BenchState['summary']): number {
  const sheet = summary?.parts.find((part) => part.id === summary.activePart)?.sheet;
  return summary?.sheets.find(({ id }) => id === sheet)?.tiles ?? 1;
}

const showsStrokes = (s: BenchState) => s.overlay === 'stretch' && s.stretchMap === 'shape';

/** The strokes of the map of shape follow the layout a moment later. */
function askStrokes(layout: LayoutView): void {
  void coreApi()
    .strokes()
    .then((marks) => {
      if (useBench.getState().layout === layout) useBench.getState().set({ strokes: { layout, marks } });
    })
    .catch(() => {});
}

/** The density overlay follows the layout a moment later. */
function askDensity(layout: LayoutView) {
  void coreApi()
    .density()
    .then((answer) => {
      if (answer && useBench.getState().layout === layout) useBench.getState().set({ density: { ...answer, layout } });
    });
}

/** The grain is shown by its own overlay, and while it is drawn. */
const showsGrain = (s: BenchState) => s.overlay === 'grain' || s.tool === 'grain';
const grainOf = (s: BenchState) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.grain ?? 0;

function askGrain(layout: LayoutView) {
  void coreApi()
    .grain()
    .then((answer) => {
      if (useBench.getState().layout === layout) useBench.getState().set({ grain: answer && { ...answer, layout } });
    });
}

/** And so do the notches. */
function askNotches(layout: LayoutView) {
  void coreApi()
    .notches()
    .then((marks) => {
      if (useBench.getState().layout === layout) useBench.getState().set({ notchMarks: { layout, marks } });
    });
}

const marksOf = (s: BenchState) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.seamMarks ?? null;
const placementOf = (s: BenchState) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.placement ?? null;

function showContexts(stage: Stage, s: BenchState) {
  if (!s.summary) return;
  const parts = s.summary.parts.filter((part) => part.id !== s.summary!.activePart && !part.isHidden);
  const known = new Map([...s.contexts].filter(([id]) => s.summary!.parts.some((part) => part.id === id)));
  // parts can be picked only where they are seen
  const shown = new Set(s.look.context || s.kind === 'parts' ? parts.map((part) => part.id) : []);
  const picking = s.kind === 'parts';
  stage.setContexts(known, { shown, selected: new Set(picking ? s.summary.selectedParts : []), pointed: s.hoverPart, picking });
}

/** Other parts on the sheet of the one at work whose layouts were told. */
export function partsBeside({
  summary,
  sheetParts,
  layout,
}: Pick<BenchState, 'sheetParts' | 'layout'> & { summary: Pick<JobSummary, 'parts' | 'activePart'> | null }): SheetPart[] {
  const active = summary?.parts.find((part) => part.id === summary.activePart);
  // until the layout of a part that just came to work is there, all stay as they are drawn
  if (!summary || !active || active.sheet === null || (layout && layout.part !== active.id)) return [];
  return summary.parts
    .filter((part) => part.id !== active.id && part.sheet === active.sheet && !part.isHidden)
    .map(({ id }) => sheetParts.get(id))
    .filter((view) => view !== undefined);
}

/** Selected islands of parts: those chosen as wholes with all they have. */
function showSheetParts(stage: Stage, s: BenchState) {
  const views = partsBeside(s);
  const chosen = new Map<string, ReadonlySet<number>>();
  if (s.kind === 'parts') {
    for (const view of views) if (s.summary!.selectedParts.includes(view.part)) chosen.set(view.part, new Set(view.islands.keys()));
  } else if (s.summary?.selection.kind === 'islands') for (const { part, ids } of s.summary.selection.also ?? []) chosen.set(part, new Set(ids));
  stage.setSheetParts(views, chosen, marksBeside(s));
}

const noMarks: JobSummary['alsoMarks'] = [];
const marksBeside = (s: BenchState) => (s.summary && s.kind !== 'parts' ? s.summary.alsoMarks : noMarks);
/** On the model where the other parts are seen at all. */
const marksOnModel = (s: BenchState) => (s.look.context ? marksBeside(s) : noMarks);

function showLayout(stage: Stage) {
  const start = performance.now();
  const state = useBench.getState();
  if (state.layout) stage.setLayout(state.layout);
  stage.paint(state);
  performance.measure('layout on stage', { start });
}
