/** Pale tints of islands, RGB; neighbours in the list are far apart in hue and differ in lightness. Our own palette. */
export const islandTints: readonly (readonly [number, number, number])[] = [
  [238, 206, 178],
  [178, 210, 222],
  [226, 224, 168],
  [214, 190, 224],
  [184, 222, 190],
  [240, 190, 190],
  [190, 196, 232],
  [216, 206, 192],
  [168, 214, 208],
  [236, 200, 218],
  [206, 218, 150],
  [202, 212, 230],
];

export const islandTint = (island: number): readonly [number, number, number] => islandTints[island % islandTints.length]!;
