import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { meshFromFaces, type Mesh } from '@jig-peel/core';

/** Where the meshes of Debian's libcgal-demo are unpacked; nothing of it is kept in the repository. */
export const realMeshes = join(import.meta.dirname, '..', 'node_modules', '.cache', 'real-meshes');

/** Fetches Debian's package libcgal-demo and unpacks its meshes, without installing it. @throws if apt-get or dpkg-deb is not there */
export function fetchRealMeshes(): void {
  if (existsSync(join(realMeshes, 'data', 'meshes'))) return;
  mkdirSync(realMeshes, { recursive: true });
  execFileSync('apt-get', ['download', '-qq', 'libcgal-demo'], { cwd: realMeshes, stdio: 'ignore' });
  const archive = readdirSync(realMeshes).find((name) => name.startsWith('libcgal-demo') && name.endsWith('.deb'))!;
  execFileSync('dpkg-deb', ['-x', archive, 'package'], { cwd: realMeshes });
  execFileSync('tar', ['xzf', join('package', 'usr', 'share', 'doc', 'libcgal-dev', 'data.tar.gz')], { cwd: realMeshes });
}

/** A mesh of the package by name, from its OFF file; normals and colours are passed over. */
export function realMesh(name: string): Mesh {
  const lines = readFileSync(join(realMeshes, 'data', 'meshes', `${name}.off`), 'utf8')
    .split('\n')
    .map((line) => line.replace(/#.*/, '').trim())
    .filter(Boolean);
  // the counts stand behind the keyword or on the next line
  const head = lines
    .shift()!
    .replace(/^[A-Z]*OFF/, '')
    .trim();
  const [points, faces] = (head || lines.shift()!).split(/\s+/).map(Number) as [number, number];
  const numbers = lines.map((line) => line.split(/\s+/).map(Number));
  return meshFromFaces(
    numbers.slice(0, points).flatMap((row) => row.slice(0, 3)),
    numbers.slice(points, points + faces).map((row) => row.slice(1, 1 + row[0]!)),
  );
}
