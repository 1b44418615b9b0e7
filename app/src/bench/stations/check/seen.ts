import { create } from 'zustand';
import { texturesReady } from '../../views/pictures.ts';
import { shownStage } from '../../views/shownStage.ts';
import { nextFrame } from '../../views/takePicture.ts';

/** Where both eyes are. */
interface Eyes {
  model: { target: [number, number, number]; distance: number; azimuth: number; elevation: number };
  sheet: { u: number; v: number; scale: number };
}

/** Both views as they were seen at some moment: whatever is changed afterwards can be compared with it. */
export interface Seen {
  id: string;
  name: string;
  jobId: string;
  pictures: ImageBitmap[];
  eyes: Eyes;
}

/** Older ones go: each is two pictures of the window's size. */
const most = 6;
let counter = 0;

/** What was kept to compare with; of this page alone. */
export const useSeen = create<{ list: Seen[] }>(() => ({ list: [] }));

function eyesNow(): Eyes | null {
  const stage = shownStage.current;
  if (!stage) return null;
  const { target, distance, azimuth, elevation } = stage.eye;
  const { u, v, scale } = stage.sheetEye;
  return { model: { target: [target.x, target.y, target.z], distance, azimuth, elevation }, sheet: { u, v, scale } };
}

function setEyes({ model, sheet }: Eyes): void {
  const stage = shownStage.current;
  if (!stage) return;
  const { target, ...eye } = model;
  stage.eye.target.set(...target);
  Object.assign(stage.eye, eye);
  Object.assign(stage.sheetEye, sheet);
  stage.invalidate();
}

/** Keeps both views as they are seen now. @throws Error where nothing is drawn */
export async function keepSeen(jobId: string): Promise<Seen> {
  await texturesReady();
  const eyes = eyesNow();
  if (!eyes) throw new Error('The views are not drawn yet.');
  const pictures = await nextFrame();
  const time = new Date().toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' });
  const seen = { id: `seen-${++counter}`, name: `seen at ${time}`, jobId, pictures, eyes };
  const { list } = useSeen.getState();
  list.slice(0, Math.max(0, list.length + 1 - most)).forEach((old) => old.pictures.forEach((picture) => picture.close()));
  useSeen.setState({ list: [...list, seen].slice(-most) });
  return seen;
}

/** Both views drawn from where something was seen, and back. */
export async function fromThere(eyes: Eyes | null): Promise<ImageBitmap[]> {
  await texturesReady();
  const own = eyesNow();
  if (eyes) setEyes(eyes);
  try {
    return await nextFrame();
  } finally {
    if (eyes && own) setEyes(own);
  }
}
