import { JigError, usualNormals } from '@jig-peel/core';
import { Keeper, type JobDatabase } from '../keep/db.ts';
import type { DeliveredFile } from './messages.ts';
import { nothing } from './deliverKinds.ts';
import type { DeliverChoice } from './delivery.ts';
import type { Aside } from './work.ts';

const onlyArchive: DeliverChoice = {
  ...nothing,
  archive: true,
  guideSize: '1024',
  guideLook: { notches: false, grid: false, bleed: 0 },
  version: '',
  parts: [],
  normals: usualNormals,
  smoothing: 0,
  bake: false,
  smoothBorders: 'smoothed',
  asItIs: true,
};

/** A job that is kept and not at work, as an archive that was read back. @throws JigError where it is gone or cannot be read as a whole */
export async function archiveKept(id: string, database: JobDatabase, aside: Aside): Promise<DeliveredFile> {
  const kept = await new Keeper(id, database).load();
  if (!kept) throw new JigError('not-found', 'This job is not kept in this browser any more.');
  const { job } = kept.entries[kept.index]!;
  const history = kept.entries.slice(0, kept.index + 1).map(({ sentence }) => sentence);
  const { files } = await aside('deliver', { job, choice: onlyArchive, format: 'archive', history }, () => {});
  return files[0]!;
}
