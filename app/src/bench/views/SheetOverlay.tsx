import { useEffect, useRef } from 'react';
import { palettes } from '../../theme/palette.ts';
import { monospaced } from '../../theme/theme.ts';
import { usePreferences } from '../../store/preferences.ts';
import { useBench } from '../../store/bench.ts';
import type { Stage } from './stage.ts';

const strip = 20;

/** Rulers (UV below and left, px above) and the islands' letters, drawn over the sheet view. */
export function SheetOverlay({ stage }: { stage: Stage }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const mode = usePreferences((s) => s.mode);
  useEffect(() => {
    const p = palettes[mode];
    const draw = () => {
      const element = canvas.current;
      if (!element) return;
      const { width, height } = stage.rects.sheet;
      const dpr = Math.min(2, window.devicePixelRatio || 1);
      if (element.width !== Math.round(width * dpr) || element.height !== Math.round(height * dpr)) {
        element.width = Math.round(width * dpr);
        element.height = Math.round(height * dpr);
      }
      const c = element.getContext('2d');
      if (!c || width < 10) return;
      c.setTransform(dpr, 0, 0, dpr, 0, 0);
      c.clearRect(0, 0, width, height);
      const { summary, layout, overlay } = useBench.getState();
      const eye = stage.sheetEye;
      // letters
      c.textAlign = 'center';
      c.textBaseline = 'middle';
      if (layout && stage.layout === layout && overlay !== 'grid') {
        let shown = 0;
        for (const island of layout.islands) {
          if (island.unplaced || shown > 400) continue;
          const [x, y] = eye.toPx(island.u, island.v, width, height);
          const size = Math.min(26, Math.max(10, Math.min(island.width * eye.aspect, island.height) * eye.scale * 0.3));
          if (Math.max(island.width, island.height) * eye.scale < 14 || x < 0 || y < 0 || x > width || y > height) continue;
          shown++;
          c.font = `700 ${size}px "Hanken Grotesk Variable", sans-serif`;
          c.lineWidth = 3;
          c.strokeStyle = 'rgba(251,248,241,0.85)';
          c.strokeText(island.letter, x, y);
          c.fillStyle = p.selectedEdge;
          c.fillText(island.letter, x, y);
        }
      }
      // rulers
      c.fillStyle = p.mat;
      c.fillRect(0, height - strip, width, strip);
      c.fillRect(0, 0, strip + 14, height);
      c.strokeStyle = p.matLineStrong;
      c.fillStyle = p.matText;
      c.lineWidth = 1;
      c.font = `10.5px ${monospaced}`;
      const sheet = summary?.settings ?? { width: 2048, height: 2048 };
      const tick = (perUnit: number) => {
        const target = 64 / perUnit;
        const power = 2 ** Math.round(Math.log2(target));
        return Math.max(1 / 256, power);
      };
      const stepU = tick(eye.scale * eye.aspect);
      const [left] = eye.toUv(strip + 14, 0, width, height);
      const [right] = eye.toUv(width, 0, width, height);
      c.beginPath();
      for (let k = Math.ceil(left / stepU); k * stepU <= right; k++) {
        const [x] = eye.toPx(k * stepU, 0, width, height);
        c.moveTo(x + 0.5, height - strip);
        c.lineTo(x + 0.5, height - strip + 5);
        c.fillText(label(k * stepU), x, height - 8);
      }
      const stepV = tick(eye.scale);
      const [, top] = eye.toUv(0, 0, width, height);
      const [, bottom] = eye.toUv(0, height - strip, width, height);
      c.textAlign = 'right';
      for (let k = Math.ceil(bottom / stepV); k * stepV <= top; k++) {
        const [, y] = eye.toPx(0, k * stepV, width, height);
        c.moveTo(strip + 9, y + 0.5);
        c.lineTo(strip + 14, y + 0.5);
        c.fillText(String(Math.round(k * stepV * sheet.height)), strip + 7, y);
      }
      c.stroke();
      c.fillStyle = p.mat;
      c.fillRect(0, height - strip, strip + 14, strip);
      c.fillStyle = p.matText;
      c.textAlign = 'left';
      c.fillText('px│uv', 2, height - 8);
    };
    stage.afterRender = draw;
    stage.invalidate();
    const stop = useBench.subscribe(() => stage.invalidate());
    return () => {
      stop();
      stage.afterRender = () => {};
    };
  }, [stage, mode]);
  return <canvas ref={canvas} aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }} />;
}

const label = (x: number) => String(Math.round(x * 10000) / 10000);
