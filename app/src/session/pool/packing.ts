import { packLayout } from '@jig-peel/core/pack/pack';
import type { Tasks, Tools } from './tasks.ts';

export function pack({ set, options }: Tasks['pack']['input'], { mesh, check, progress }: Tools): Tasks['pack']['output'] {
  return packLayout(mesh(), set, options, { progress, throwIfCancelled: check });
}
