/* Writes the JSON Schema of recipes where the app serves it; a test says when it is out of date. */
import { writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { recipeJsonSchema } from '../core/src/ops/recipe.ts';

writeFileSync(fileURLToPath(new URL('../app/public/recipe.schema.json', import.meta.url)), `${JSON.stringify(recipeJsonSchema())}\n`);
