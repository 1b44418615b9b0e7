import { create } from 'zustand';
import { useBench } from '../store/bench.ts';
import { usualNormals, type NormalChoice } from '@jig-peel/core';
import { coreApi, notify, outcomeOf } from '../worker/client.ts';
import type { DeliverChoice } from '../session/delivery.ts';
import type { DeliveredFile } from '../session/messages.ts';

type What = Omit<DeliverChoice, 'parts' | 'guideSize' | 'normals' | 'asItIs'>;

interface DeliverState {
  choice: What;
  guideSize: string;
  onlyActive: boolean;
  delivered: { file: DeliveredFile; url: string }[];
  bundle: { name: string; url: string } | null;
  notes: string[];
  working: boolean;
  normals: NormalChoice;
  /** What is not on the sheet, in words: asked before it is delivered as it is. */
  asked: { words: string[]; parts: string[] } | null;
  set(patch: Partial<Pick<DeliverState, 'choice' | 'guideSize' | 'onlyActive' | 'normals' | 'asked'>>): void;
}

/** What is ticked under Deliver, and what was handed over last. */
export const useDeliver = create<DeliverState>((set) => ({
  choice: { obj: true, glb: true, ply: false, guidePng: true, guideSvg: false, archive: false },
  guideSize: '1024',
  onlyActive: true,
  delivered: [],
  bundle: null,
  notes: [],
  working: false,
  normals: usualNormals,
  asked: null,
  set: (patch) => set(patch),
}));

const urlOf = (file: DeliveredFile) => URL.createObjectURL(new Blob([file.bytes as Uint8Array<ArrayBuffer>], { type: file.type }));

/** Hands a file to the browser's downloads. */
export function save(name: string, url: string): void {
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
}

/** Writes what is ticked (or what is given), shows the proof of each file and starts the download. */
export async function deliverNow(given?: What, asItIs = false): Promise<void> {
  const { choice, guideSize, onlyActive, delivered, bundle, normals } = useDeliver.getState();
  const { summary } = useBench.getState();
  if (!summary) return;
  const what = given ?? choice;
  if (!Object.values(what).some(Boolean)) {
    useBench.getState().notice('Tick at least one file to deliver.', 'info');
    return;
  }
  useDeliver.setState({ working: true, asked: null });
  const parts = onlyActive && !what.archive ? [summary.activePart] : [];
  const outcome = await outcomeOf(coreApi().deliver({ ...what, guideSize, parts, normals, asItIs }));
  useDeliver.setState({ working: false });
  if (!outcome.ok && outcome.leftOut) {
    useDeliver.setState({ asked: outcome.leftOut });
    return;
  }
  notify(outcome, true);
  if (!outcome.ok) return;
  for (const { url } of delivered) URL.revokeObjectURL(url);
  if (bundle) URL.revokeObjectURL(bundle.url);
  const { report } = outcome;
  const files = report.files.map((file) => ({ file, url: urlOf(file) }));
  const whole = { name: report.bundle.name, url: urlOf(report.bundle) };
  useDeliver.setState({ delivered: files, bundle: whole, notes: report.notes });
  save(whole.name, whole.url);
}
