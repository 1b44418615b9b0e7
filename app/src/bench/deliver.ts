import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { useBench } from '../store/bench.ts';
import { usualNormals, type NormalChoice } from '@jig-peel/core';
import { coreApi, notify, outcomeOf } from '../worker/client.ts';
import type { Delivered, DeliverKinds, GuideLook } from '../session/delivery.ts';
import type { DeliveredFile } from '../session/messages.ts';
import { nothing } from '../session/deliverKinds.ts';

/** What is written and how: kept for the next job, and under names. */
export interface DeliverSettings {
  choice: DeliverKinds;
  guideSize: string;
  guideLook: GuideLook;
  normals: NormalChoice;
  /** How many times models are smoothed; 0, or not there: as they are. */
  smoothing?: number;
  /** What layers show is baked for the files. */
  bake?: boolean;
  onlyActive: boolean;
}

interface DeliverState extends DeliverSettings {
  /** A version whose layout is delivered; empty: the layout of now. */
  version: string;
  delivered: { file: DeliveredFile; url: string }[];
  bundle: { name: string; url: string } | null;
  notes: string[];
  judged: Delivered['judged'];
  working: boolean;
  /** What is not on the sheet, in words: asked before it is delivered as it is. */
  asked: { words: string[]; parts: string[]; onlyLook: boolean } | null;
  set(patch: Partial<DeliverSettings & Pick<DeliverState, 'version' | 'asked'>>): void;
}

/** What is ticked under Deliver, and what was handed over last. */
export const useDeliver = create<DeliverState>((set) => ({
  choice: { ...nothing, obj: true, glb: true, guidePng: true },
  guideSize: '1024',
  guideLook: { notches: false, grid: false, bleed: 0 },
  onlyActive: false,
  smoothing: 0,
  version: '',
  delivered: [],
  bundle: null,
  notes: [],
  judged: null,
  working: false,
  normals: usualNormals,
  asked: null,
  set: (patch) => set(patch),
}));

interface Presets {
  presets: Readonly<Record<string, DeliverSettings>>;
  keep(name: string, settings: DeliverSettings): void;
  remove(name: string): void;
}

/** Settings of a delivery under names, for all jobs of this browser. */
export const useDeliverPresets = create<Presets>()(
  persist(
    (set) => ({
      presets: {},
      keep: (name, settings) => set(({ presets }) => ({ presets: { ...presets, [name]: settings } })),
      remove: (name) => set(({ presets }) => ({ presets: Object.fromEntries(Object.entries(presets).filter(([key]) => key !== name)) })),
    }),
    { name: 'jig-peel-deliveries' },
  ),
);

export const settingsNow = (): DeliverSettings => {
  const { choice, guideSize, guideLook, normals, smoothing, bake, onlyActive } = useDeliver.getState();
  return { choice, guideSize, guideLook, normals, smoothing, bake, onlyActive };
};

const urlOf = (file: DeliveredFile) => URL.createObjectURL(new Blob([file.bytes as Uint8Array<ArrayBuffer>], { type: file.type }));

/** Hands a file to the browser's downloads. */
export function save(name: string, url: string): void {
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
}

/**
 * Writes what is ticked (or what is given), shows each file with its size and proof and starts the download.
 * @param onlyLook without the download
 */
export async function deliverNow(given?: DeliverKinds, asItIs = false, onlyLook = false): Promise<void> {
  const { choice, guideSize, guideLook, onlyActive, delivered, bundle, normals, smoothing, bake, version } = useDeliver.getState();
  const { summary } = useBench.getState();
  if (!summary) return;
  const what = given ?? choice;
  if (!Object.entries(what).some(([kind, on]) => on && kind !== 'record')) {
    useBench.getState().notice('Tick at least one file to deliver.', 'info');
    return;
  }
  useDeliver.setState({ working: true, asked: null });
  const parts = onlyActive && !what.archive ? [summary.activePart] : [];
  const from = !given && summary.versions.some(({ id }) => id === version) ? version : '';
  const outcome = await outcomeOf(
    coreApi().deliver({
      ...what,
      guideSize,
      guideLook,
      parts,
      normals,
      smoothing: smoothing ?? 0,
      bake: bake === true,
      smoothBorders: useBench.getState().look.smoothBorders,
      version: from,
      asItIs,
    }),
  );
  useDeliver.setState({ working: false });
  if (!outcome.ok && outcome.leftOut) {
    useDeliver.setState({ asked: { ...outcome.leftOut, onlyLook } });
    return;
  }
  notify(outcome, !onlyLook);
  if (!outcome.ok) return;
  for (const { url } of delivered) URL.revokeObjectURL(url);
  if (bundle) URL.revokeObjectURL(bundle.url);
  const { report } = outcome;
  const files = report.files.map((file) => ({ file, url: urlOf(file) }));
  const whole = { name: report.bundle.name, url: urlOf(report.bundle) };
  useDeliver.setState({ delivered: files, bundle: whole, notes: report.notes, judged: report.judged });
  if (!onlyLook) save(whole.name, whole.url);
}
