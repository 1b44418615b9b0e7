import { parentPort } from 'node:worker_threads';
import { enableFused } from './engine.ts';
import { workFile, type FileTask } from './recipeFile.ts';

/* Works one file after the other through a recipe, in a thread of its own. */
enableFused();
parentPort!.on('message', (task: FileTask) => {
  void workFile(task).then((done) => parentPort!.postMessage(done));
});
