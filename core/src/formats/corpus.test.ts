import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { JigError } from '../jigError.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { openFiles } from './open.ts';

/*
 * Debian's package assimp-testmodels: files that nobody here made, sound and broken ones. `npm test` installs it; without it these tests
 * are passed over.
 */
const folder = '/usr/share/assimp/models';
const ends = /\.(obj|ply|stl|gltf|glb)$/i;
const found = (where: string): string[] =>
  readdirSync(where, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? found(join(where, entry.name)) : ends.test(entry.name) ? [join(where, entry.name)] : [],
  );
const files = existsSync(folder) ? found(folder).sort() : [];

/** Words of a programming language's own errors: nobody should read them. */
const raw = /undefined|not a function|is not iterable|null|NaN\b|\[object|TypeError|RangeError/;

/** How many faces there should be, counted without our readers; null where that is not easily said. */
async function expectedFaces(path: string, bytes: Uint8Array, resources: Map<string, Uint8Array>): Promise<number | null> {
  const ending = path.slice(path.lastIndexOf('.')).toLowerCase();
  const text = new TextDecoder('latin1').decode(bytes);
  if (ending === '.obj') return bytes[0]! > 0xf0 ? null : (text.replace(/\\\r?\n/g, ' ').match(/^[ \t]*f[ \t]+(\S+[ \t]+){2,}\S+/gm) ?? []).length;
  if (ending === '.ply') return Number(/element face (\d+)/.exec(text)?.[1] ?? 0);
  if (ending === '.stl')
    return /^\s*facet/im.test(text) ? (text.match(/^\s*facet\b/gim) ?? []).length : new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true);
  const report = await validateBytes(bytes, {
    externalResourceFunction: (uri) => Promise.resolve(resources.get(decodeURIComponent(uri)) ?? new Uint8Array(0)),
  });
  return report.info?.totalTriangleCount ?? null;
}

describe.runIf(files.length > 0)('files that nobody here made', () => {
  it('are there in number', () => expect(files.length).toBeGreaterThan(80));

  it.each(files.map((file) => [file.slice(folder.length + 1), file]))('%s opens with the right count or gives a clear sentence', async (_name, path) => {
    const bytes = new Uint8Array(readFileSync(path));
    const beside = readdirSync(dirname(path))
      .filter((name) => /\.(mtl|bin|png|jpe?g)$/i.test(name))
      .map((name) => ({ name, bytes: new Uint8Array(readFileSync(join(dirname(path), name))) }));
    let job;
    try {
      job = await openFiles([{ name: basename(path), bytes }, ...beside], 'j');
    } catch (error) {
      expect(error).toBeInstanceOf(JigError);
      expect((error as Error).message).toMatch(/^[\p{Lu}“].*\.$/u);
      expect((error as Error).message).not.toMatch(raw);
      return;
    }
    const expected = await expectedFaces(path, bytes, new Map(beside.map((file) => [file.name, file.bytes])));
    const isGltf = /\.gl(tf|b)$/i.test(path);
    const count = job.parts.reduce((sum, part) => sum + (isGltf ? trianglesOf(part.mesh).count : part.mesh.faceStart.length - 1), 0);
    // glTF counts each mesh once however often it is used, and the validator counts degenerate ones too
    if (expected !== null && !(isGltf && job.parts.length > 1)) expect(count).toBe(expected);
    for (const part of job.parts) for (const x of part.mesh.points) if (!Number.isFinite(x)) throw new Error('a point is not a number');
  });
});
