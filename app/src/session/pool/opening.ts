import { openFiles } from '@jig-peel/core/formats/open';
import type { Job } from '@jig-peel/core';
import type { Tasks, Tools } from './tasks.ts';

export const open = ({ files, id }: Tasks['open']['input'], { check, progress }: Tools): Promise<Job> =>
  openFiles(files, id, { progress, throwIfCancelled: check }, { up: 'guess' });
