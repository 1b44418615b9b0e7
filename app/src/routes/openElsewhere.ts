import { coreApi } from '../worker/client.ts';

/** Is any tab working on a job, or waiting to? */
export async function openElsewhere(id: string): Promise<boolean> {
  const locks = (navigator as { locks?: LockManager }).locks;
  // this tab's own worker may still hold the job that was left last
  await coreApi().letGo(id);
  const all = await locks?.query();
  return all?.held?.some(({ name }) => name === `jig-peel/job/${id}`) ?? false;
}
