export { enableFused } from './engine.ts';
export { putInPlace, readJob, readText, readyJob, type Ready } from './files.ts';
export { runBatch, type BatchOptions, type BatchReport } from './folderRun.ts';
export { outputsOf, type FileDone, type FileTask } from './recipeFile.ts';
export { ThreadQueue } from './threadQueue.ts';
export type { QueueListener, QueueTask, WorkQueue } from './workQueue.ts';
