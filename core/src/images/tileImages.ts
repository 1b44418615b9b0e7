/** An image whose name says which tile it is of: name.1001.png. */
export interface TileImage {
  readonly id: string;
  /** Counted from 0: 1001 is tile 0. */
  readonly tile: number;
}

/** The tile that an image's name says (open convention: 1001 + column + 10 · row before the ending), and the name without it; null for other names. */
export function tileOfName(name: string): { stem: string; tile: number } | null {
  const found = /^(.+)[._](1\d{3})(\.[a-z0-9]+)$/i.exec(name);
  const tile = found ? Number(found[2]) - 1001 : -1;
  return found && tile >= 0 && tile < 100 ? { stem: `${found[1]!.toLowerCase()} ${found[3]!.toLowerCase()}`, tile } : null;
}

/** The images of all tiles that belong with one, rising; null where its name says no tile. Of two for the same tile the later one counts. */
export function tileImages(images: readonly { id: string; name: string }[], id: string): TileImage[] | null {
  const own = images.find((image) => image.id === id);
  const named = own && tileOfName(own.name);
  if (!named) return null;
  const byTile = new Map<number, string>();
  for (const image of images) {
    const other = tileOfName(image.name);
    if (other?.stem === named.stem) byTile.set(other.tile, image.id);
  }
  byTile.set(named.tile, id);
  return [...byTile].sort((a, b) => a[0] - b[0]).map(([tile, image]) => ({ id: image, tile }));
}

/** Columns and rows of tiles that hold all of them: at most ten a row. */
export function tileExtent(tiles: readonly Pick<TileImage, 'tile'>[]): { columns: number; rows: number } {
  const last = Math.max(0, ...tiles.map(({ tile }) => tile));
  return { columns: Math.min(10, Math.max(...tiles.map(({ tile }) => tile % 10), 0) + 1), rows: Math.floor(last / 10) + 1 };
}
