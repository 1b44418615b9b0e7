import { register } from 'tsx/esm/api';

/* A thread begins without the loader that the main one was started with. */
register();
await import('./recipeThread.ts');
