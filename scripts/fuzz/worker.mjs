// A thread does not inherit the loader of TypeScript.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
