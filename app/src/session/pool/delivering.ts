import { zipSync } from 'fflate';
import { writeFormat } from '../deliver.ts';
import type { DeliverPart, DeliverTask } from '../delivery.ts';
import type { DeliveredFile } from '../messages.ts';
import type { Tools } from './tasks.ts';

export const deliver = (task: DeliverTask, { progress, check }: Tools): Promise<DeliverPart> => writeFormat(task, { progress, throwIfCancelled: check });

export const zip = (files: DeliveredFile[]): Uint8Array => zipSync(Object.fromEntries(files.map((file) => [file.name, file.bytes])), { level: 3 });
