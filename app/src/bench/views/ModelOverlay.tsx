import { palettes } from '../../theme/palette.ts';
import { useEffect, useRef } from 'react';
import { usePreferences } from '../../store/preferences.ts';
import { useBench } from '../../store/bench.ts';
import { cleared } from './overlayCanvas.ts';
import { usePairing } from '../pairing.ts';
import { drawPairs } from './pairMarks.ts';
import { drawValues } from './pointValues.ts';
import type { Picker } from './pick.ts';
import type { Stage } from './stage.ts';

/** What `draw` looks at. */
const drawnFrom = ['look', 'kind', 'summary', 'layout', 'geometry'] as const;

/** What is written over the model view: UV values beside selected points, and a frame round the far side. */
export function ModelOverlay({ stage, picker }: { stage: Stage; picker: Picker }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const mode = usePreferences((s) => s.mode);
  useEffect(() => {
    const draw = () => {
      const c = cleared(canvas.current, stage.rects.model);
      if (!c) return;
      const state = useBench.getState();
      if (stage.geometry && state.look.farSide) {
        const far = stage.farRect();
        c.strokeStyle = palettes[mode].farFrame;
        c.lineWidth = 1;
        c.strokeRect(far.left + 0.5, far.top + 0.5, far.width - 1, far.height - 1);
        c.fillStyle = c.strokeStyle;
        c.font = '600 11px "Hanken Grotesk Variable", sans-serif';
        c.textBaseline = 'top';
        c.textAlign = 'left';
        c.fillText('far side', far.left + 6, far.top + 5);
      }
      drawPairs(c, 'points', palettes[mode].ink, palettes[mode].paper, ([x, y, z]) => picker.projectPlace(x!, y!, z!));
      drawValues(c, state, (value) => picker.projectPoint(value.point));
    };
    stage.overlays.model.add(draw);
    stage.invalidateOver('model');
    const stop = useBench.subscribe((s, before) => {
      if (drawnFrom.some((key) => s[key] !== before[key])) stage.invalidateOver('model');
    });
    const stopPairs = usePairing.subscribe(() => stage.invalidateOver('model'));
    return () => {
      stop();
      stopPairs();
      stage.overlays.model.delete(draw);
    };
  }, [stage, picker, mode]);
  return <canvas ref={canvas} aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }} />;
}
