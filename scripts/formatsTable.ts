/** Writes the list of files of Debian's assimp-testmodels and what opening each gives into docs/formats.md. Run: npx tsx scripts/formatsTable.ts */
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { openFiles } from '@jig-peel/core';

const folder = '/usr/share/assimp/models';
const found = (where: string): string[] =>
  readdirSync(where, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? found(join(where, entry.name)) : /\.(obj|ply|stl|gltf|glb)$/i.test(entry.name) ? [join(where, entry.name)] : [],
  );
const rows: string[] = [];
for (const path of found(folder).sort()) {
  const beside = readdirSync(dirname(path))
    .filter((name) => /\.(mtl|bin|png|jpe?g)$/i.test(name))
    .map((name) => ({ name, bytes: new Uint8Array(readFileSync(join(dirname(path), name))) }));
  const name = path.slice(folder.length + 1);
  try {
    const { parts } = await openFiles([{ name: basename(path), bytes: new Uint8Array(readFileSync(path)) }, ...beside], 'j');
    rows.push(
      `| ${name} | ${parts.length === 1 ? '1 part' : `${parts.length} parts`}, ${parts.reduce((sum, part) => sum + part.mesh.faceStart.length - 1, 0)} faces |`,
    );
  } catch (error) {
    rows.push(`| ${name} | ${(error as Error).message.replaceAll('|', '/')} |`);
  }
}
const text = readFileSync('docs/formats.md', 'utf8').split('<!-- list -->')[0]!;
writeFileSync('docs/formats.md', `${text}<!-- list -->\n\n| file | opens as, or says |\n|---|---|\n${rows.join('\n')}\n`);
