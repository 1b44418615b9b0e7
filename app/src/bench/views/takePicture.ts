import { ModelCamera } from './cameras.ts';
import { shownStage } from './shownStage.ts';
import type { Stage } from './stage.ts';

export interface PictureOptions {
  width: number;
  height: number;
  /** A colour; null: transparent. */
  ground: string | null;
  /** Turned by so many radians from the view that is shown. */
  turned?: number;
}

/** Gives the page its turn. */
const pause = () => new Promise<void>((next) => setTimeout(next, 0));

/**
 * A picture of the model as the view shows it, at any size up to 8192 px, drawn in pieces into the canvas that is there, each between two frames. Marks and
 * lines are as large in it as in the view.
 * @param told hears the share that is done
 * @throws Error where nothing is drawn, or it was stopped
 */
export async function takePicture({ width, height, ground, turned = 0 }: PictureOptions, told: (share: number) => void, signal?: AbortSignal): Promise<Blob> {
  const stage = shownStage.current;
  const gl = stage?.drawnWith;
  if (!stage || !gl) throw new Error('The views are not drawn yet.');
  const eye = eyeOf(stage, turned);
  const picture = new OffscreenCanvas(width, height);
  const c = picture.getContext('2d')!;
  const ratio = gl.getPixelRatio();
  const across = Math.min(1024, gl.domElement.width, width);
  const down = Math.min(1024, gl.domElement.height, height);
  const context = gl.getContext();
  const count = Math.ceil(width / across) * Math.ceil(height / down);
  let done = 0;
  for (let top = 0; top < height; top += down)
    for (let left = 0; left < width; left += across) {
      if (signal?.aborted) throw new Error('Stopped; no picture was made.');
      const piece = { left, top, width: Math.min(across, width - left), height: Math.min(down, height - top) };
      // sizes are counted in px of the page, the canvas in its own
      const inPage = { left: left / ratio, top: top / ratio, width: piece.width / ratio, height: piece.height / ratio };
      stage.drawPiece(gl, eye, { width: width / ratio, height: height / ratio }, inPage, ground);
      const data = new Uint8Array(piece.width * piece.height * 4);
      context.readPixels(0, 0, piece.width, piece.height, context.RGBA, context.UNSIGNED_BYTE, data);
      c.putImageData(upright(data, piece.width, piece.height), left, top);
      told(++done / (count + 1));
      await pause();
    }
  return picture.convertToBlob({ type: 'image/png' });
}

function eyeOf(stage: Stage, turned: number): ModelCamera {
  const eye = new ModelCamera();
  eye.follow(stage.eye, stage.eye.azimuth + turned, stage.eye.elevation);
  return eye;
}

/** Rows from below to above, alpha that was multiplied in taken out. */
function upright(data: Uint8Array, width: number, height: number): ImageData {
  const out = new Uint8ClampedArray(data.length);
  const row = width * 4;
  for (let y = 0; y < height; y++) out.set(data.subarray((height - 1 - y) * row, (height - y) * row), y * row);
  for (let k = 0; k < out.length; k += 4) {
    const alpha = out[k + 3]!;
    if (alpha === 0 || alpha === 255) continue;
    for (let d = 0; d < 3; d++) out[k + d] = (out[k + d]! * 255) / alpha;
  }
  return new ImageData(out, width, height);
}

/** Both views as they are drawn next; one that is not shown is left out. */
export function nextFrame(): Promise<ImageBitmap[]> {
  const stage = shownStage.current;
  if (!stage) return Promise.reject(new Error('The views are not drawn yet.'));
  return new Promise((done, fail) => {
    const drawn = () => {
      stage.overlays.sheet.delete(drawn);
      const gl = stage.drawnWith!;
      const ratio = gl.getPixelRatio();
      const shown = [stage.rects.model, stage.rects.sheet].filter(({ width, height }) => width >= 2 && height >= 2);
      Promise.all(shown.map(({ left, top, width, height }) => createImageBitmap(gl.domElement, left * ratio, top * ratio, width * ratio, height * ratio))).then(
        done,
        fail,
      );
    };
    stage.overlays.sheet.add(drawn);
    stage.invalidate();
  });
}
