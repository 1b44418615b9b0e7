import type { Layer } from '../images/surface/layer.ts';

/** A driver in words. */
export function driverInWords(job: { readonly jigs?: readonly { id: string; name: string }[] }, layer: Pick<Layer, 'driver' | 'source'>): string {
  const { driver, source } = layer;
  if (source.kind === 'colour' && driver.kind !== 'decal') return 'one colour';
  if (source.kind === 'noise' || source.kind === 'fade') return 'by the place in space';
  switch (driver.kind) {
    case 'set':
      return driver.set === '' ? 'driven by the UV set at work' : `driven by ${driver.set}`;
    case 'jig': {
      const jig = job.jigs?.find(({ id }) => id === driver.jig);
      return jig ? `driven by the jig “${jig.name}”` : 'its jig is gone: choose what drives it';
    }
    case 'triplanar':
      return 'from three sides, without UVs';
    case 'decal':
      return 'once, where it was put on the surface';
  }
}
