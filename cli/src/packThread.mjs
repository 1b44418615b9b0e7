// A thread begins without what reads TypeScript.
import { register } from 'tsx/esm/api';

register();
await import('./packThread.ts');
