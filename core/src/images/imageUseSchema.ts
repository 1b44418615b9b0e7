import { z } from 'zod';
import { imageRoles } from './imageSets.ts';

/** `ImageUse`, as it is read. Apart from it, since the screen needs no schemas. */
export const imageUseSchema = z.object({ set: z.string().min(1).max(200), role: z.enum(imageRoles) });
