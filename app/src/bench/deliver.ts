import { create } from 'zustand';
import { useBench } from '../store/bench.ts';
import { coreApi, notify } from '../worker/client.ts';
import type { DeliverChoice } from '../worker/deliver.ts';
import type { DeliveredFile } from '../worker/messages.ts';

type What = Omit<DeliverChoice, 'parts' | 'guideSize'>;

interface DeliverState {
  choice: What;
  guideSize: string;
  onlyActive: boolean;
  delivered: { file: DeliveredFile; url: string }[];
  bundle: { name: string; url: string } | null;
  notes: string[];
  working: boolean;
  set(patch: Partial<Pick<DeliverState, 'choice' | 'guideSize' | 'onlyActive'>>): void;
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
export async function deliverNow(given?: What): Promise<void> {
  const { choice, guideSize, onlyActive, delivered, bundle } = useDeliver.getState();
  const { summary } = useBench.getState();
  if (!summary) return;
  const what = given ?? choice;
  if (!Object.values(what).some(Boolean)) {
    useBench.getState().notice('Tick at least one file to deliver.', 'info');
    return;
  }
  useDeliver.setState({ working: true });
  const outcome = await coreApi().deliver({ ...what, guideSize, parts: onlyActive && !what.archive ? [summary.activePart] : [] });
  useDeliver.setState({ working: false });
  notify(outcome, true);
  if (!outcome.ok) return;
  for (const { url } of delivered) URL.revokeObjectURL(url);
  if (bundle) URL.revokeObjectURL(bundle.url);
  const report = outcome.report as { files: DeliveredFile[]; bundle: DeliveredFile; notes: string[] };
  const files = report.files.map((file) => ({ file, url: urlOf(file) }));
  const whole = { name: report.bundle.name, url: urlOf(report.bundle) };
  useDeliver.setState({ delivered: files, bundle: whole, notes: report.notes });
  save(whole.name, whole.url);
}
