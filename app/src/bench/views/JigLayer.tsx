import { useEffect } from 'react';
import { later } from '../../later.tsx';
import { useBench } from '../../store/bench.ts';
import { useShown } from '../../store/shown.ts';
import { useJigs } from '../jigs.ts';
import type { Picker } from './pick.ts';
import type { Stage } from './stage.ts';

/** Loaded when a jig is in hand first. */
const JigHandles = later(() => import('./JigHandles.tsx'));

/** The frame of the jig in hand and its handles over the model view. */
export function JigLayer({ stage, picker }: { stage: Stage; picker: Picker }) {
  const station = useBench((s) => s.station);
  const chosen = useJigs((s) => s.chosen);
  const frame = useJigs((s) => s.frame);
  const image = useJigs((s) => s.image);
  const row = useBench((s) => s.summary?.jigs.find((one) => one.id === chosen) ?? null);
  const here = useBench((s) => row !== null && (row.drives.length === 0 || row.drives.some(({ part }) => part === s.summary?.activePart)));
  const shown = station === 'jigs' && row !== null && here ? row : null;
  useEffect(() => {
    const draw = () => stage.setJig(frame ? (useShown.getState().jig ?? shown?.jig ?? null) : null, image);
    draw();
    const stop = useShown.subscribe((now, before) => {
      if (now.jig !== before.jig) draw();
    });
    return () => {
      stop();
      stage.setJig(null, false);
    };
  }, [stage, shown, frame, image]);
  if (!shown || !frame) return null;
  return <JigHandles stage={stage} picker={picker} row={shown} />;
}
