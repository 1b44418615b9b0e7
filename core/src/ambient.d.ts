/** The package's main file is not loadable as a module; its .mjs is, but has no types of its own. */
declare module 'maxrects-packer/dist/maxrects-packer.mjs' {
  export { MaxRectsPacker } from 'maxrects-packer';
}
declare module 'gltf-validator' {
  export function validateBytes(
    bytes: Uint8Array,
    options?: { externalResourceFunction?: (uri: string) => Promise<Uint8Array> },
  ): Promise<{
    info?: { totalTriangleCount: number };
    issues: { numErrors: number; numWarnings: number; messages: { code: string; message: string; severity: number }[] };
  }>;
}

declare module 'clipper-lib' {
  type Path = { X: number; Y: number }[];
  interface Engine {
    AddPaths(paths: Path[], type: number, closed: boolean): boolean;
    Execute(type: number, solution: Path[], subjectFill: number, clipFill: number): boolean;
  }
  interface Offset {
    AddPaths(paths: Path[], join: number, end: number): void;
    Execute(solution: Path[], delta: number): void;
  }
  const library: {
    ClipperOffset: { new (miterLimit: number, arcTolerance: number): Offset };
    JoinType: { jtRound: number };
    EndType: { etClosedPolygon: number };
    Clipper: { new (): Engine; Area(path: Path): number; Orientation(path: Path): boolean };
    ClipType: { ctIntersection: number; ctUnion: number };
    PolyType: { ptSubject: number; ptClip: number };
    PolyFillType: { pftNonZero: number };
  };
  export default library;
}
