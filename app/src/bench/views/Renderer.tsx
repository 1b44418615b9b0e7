import { Paper, Typography } from '@mui/material';
import { useFrame, useThree } from '@react-three/fiber';
import { useEffect } from 'react';
import type { Stage } from './stage.ts';

/** Draws the stage into the canvas around it, and says when the browser takes the graphics away and gives them back. */
export function Renderer({ stage, onLost }: { stage: Stage; onLost: (lost: boolean) => void }) {
  const { invalidate, size, gl } = useThree();
  useEffect(() => {
    const canvas = gl.domElement;
    const lost = (event: Event) => {
      // else it is never given back
      event.preventDefault();
      onLost(true);
    };
    const restored = () => {
      onLost(false);
      stage.invalidate();
    };
    canvas.addEventListener('webglcontextlost', lost);
    canvas.addEventListener('webglcontextrestored', restored);
    // after a new canvas, too, everything has to be handed to the graphics again
    stage.invalidate();
    return () => {
      canvas.removeEventListener('webglcontextlost', lost);
      canvas.removeEventListener('webglcontextrestored', restored);
    };
  }, [gl, stage, onLost]);
  useEffect(() => {
    stage.schedule = () => invalidate();
    stage.invalidate();
    return () => {
      stage.schedule = () => {};
    };
  }, [stage, invalidate]);
  useFrame(({ gl }) => stage.render(gl, size.height), 1);
  return null;
}

/** Says why nothing is drawn. */
export function NoGraphics({ lost }: { lost: boolean }) {
  return (
    <Paper role="alert" elevation={6} sx={{ position: 'absolute', top: '40%', left: '50%', transform: 'translateX(-50%)', p: 2, maxWidth: 420, zIndex: 5 }}>
      <Typography variant="body2">
        {lost
          ? 'The browser took the graphics away for a moment; the views come back by themselves. The job is not touched.'
          : 'This browser draws no WebGL 2, which the views need. Switch on hardware acceleration in its settings, or use another browser. Panels and keys work; nothing is lost.'}
      </Typography>
    </Paper>
  );
}
