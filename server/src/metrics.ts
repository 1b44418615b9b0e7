import type { RequestHandler } from 'express';
import { Counter, Gauge, Histogram, Registry } from 'prom-client';
import type { WorkQueue } from '@jig-peel/batch';
import type { Batches } from './batches.ts';

/** Figures of the server as Prometheus reads them. */
export function metrics(batches: Batches, queue: WorkQueue): RequestHandler {
  const registry = new Registry();
  const registers = [registry];
  const seconds = new Histogram({
    name: 'jig_peel_file_seconds',
    help: 'Time that a file was worked',
    buckets: [0.1, 0.3, 1, 3, 10, 30, 100, 300, 1000],
    registers,
  });
  const ended = new Counter({ name: 'jig_peel_files_total', help: 'Files that ended, by how', labelNames: ['state'] as const, registers });
  const lost = new Counter({ name: 'jig_peel_workers_lost_total', help: 'Times a worker ended over a file', registers });
  new Gauge({
    name: 'jig_peel_batches',
    help: 'Batches kept',
    registers,
    collect() {
      this.set(batches.list().length);
    },
  });
  new Gauge({
    name: 'jig_peel_batch_bytes',
    help: 'Bytes of the batches kept',
    registers,
    collect() {
      this.set(batches.bytes);
    },
  });
  new Gauge({
    name: 'process_resident_memory_bytes',
    help: 'Memory of the server',
    registers,
    collect() {
      this.set(process.memoryUsage.rss());
    },
  });
  new Gauge({
    name: 'jig_peel_queue_files',
    help: 'Files in the queue',
    labelNames: ['state'] as const,
    registers,
    async collect() {
      const { waiting, working } = await queue.counts();
      this.set({ state: 'waiting' }, waiting);
      this.set({ state: 'working' }, working);
    },
  });
  const known = new Map<string, number>();
  batches.on('change', (id, at) => {
    const file = at === null ? undefined : batches.get(id)?.files[at];
    if (!file) return;
    const key = `${id}-${at}`;
    if (file.lost > (known.get(key) ?? 0)) {
      known.set(key, file.lost);
      lost.inc();
    }
    if (file.state !== 'done' && file.state !== 'failed') return;
    known.delete(key);
    ended.inc({ state: file.state });
    seconds.observe(file.seconds);
  });
  return (_request, response, next) => {
    registry.metrics().then((text) => response.type(registry.contentType).send(text), next);
  };
}
