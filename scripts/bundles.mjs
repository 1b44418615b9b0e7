/* What is loaded before a job is opened, with one, and by a worker that solves: gzip, beside their budgets. Needs the built app; exit 1 if one is over. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';

const assets = fileURLToPath(new URL('../app/dist/assets', import.meta.url));
const names = readdirSync(assets).filter((name) => name.endsWith('.js'));
const named = (stem) => names.filter((name) => name.startsWith(`${stem}-`));

/** A chunk and all that it imports at once. */
function closure(starts) {
  const found = new Set();
  const visit = (name) => {
    if (found.has(name)) return;
    found.add(name);
    for (const [, other] of readFileSync(join(assets, name), 'utf8').matchAll(/(?:from|import)\s*["']\.\/([\w.-]+\.js)["']/g)) visit(other);
  };
  starts.forEach(visit);
  return found;
}
const size = (chunks) => [...chunks].reduce((sum, name) => sum + gzipSync(readFileSync(join(assets, name)), { level: 9 }).length, 0) / 1000;

const page = readFileSync(join(assets, '../index.html'), 'utf8');
const first = closure(names.filter((name) => page.includes(name)));
const bench = new Set([...closure([...named('BenchPage'), ...named('Notices')])].filter((name) => !first.has(name)));
const rows = [
  ['jobs page', size(first), 200],
  ['bench, more', size(bench), 450],
  ['solver worker', size(closure([...named('poolWorker'), ...named('solving')])), 60],
  ['session worker', size(closure(named('coreWorker'))), 370],
];
let over = false;
for (const [name, kb, budget] of rows) {
  if (!(kb > 0 && kb <= budget)) over = true;
  console.log(`${name.padEnd(15)} ${kb.toFixed(1).padStart(7)} kB gzip of ${budget}${kb <= budget ? '' : '  OVER'}`);
}
process.exit(over ? 1 : 0);
