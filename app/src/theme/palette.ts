/** Every colour of the app, in both themes. Overlay colours are checked for contrast in a test. */
export type Mode = 'light' | 'dark';

export interface Palette {
  ground: string;
  paper: string;
  raised: string;
  line: string;
  ink: string;
  inkSoft: string;
  primary: string;
  onPrimary: string;
  good: string;
  warn: string;
  bad: string;
  /** Ground of the model view, top and bottom. */
  stageTop: string;
  stageBottom: string;
  /** Bare clay of faces without a place. */
  clay: string;
  /** The sheet view. */
  mat: string;
  matLine: string;
  matLineStrong: string;
  matText: string;
  sheetEdge: string;
  rim: string;
  seam: string;
  seamCasing: string;
  selected: string;
  selectedEdge: string;
  hover: string;
  wire: string;
  /** What the seam pen would cut, or make whole. */
  pen: string;
  uncut: string;
  /** Frame of a jig. */
  jig: string;
  /** Islands of other parts on the sheet. */
  otherPaper: string;
  /** The sheet itself, on its mat. */
  sheet: string;
  /** Frame round the far side of the model. */
  farFrame: string;
}

/** Colours of what is drawn over the form: the same in both themes, but for the mat. */
export const overlays = {
  mat: '#27343b',
  matLine: '#31414a',
  matLineStrong: '#45575f',
  matText: '#b9c6c8',
  sheetEdge: '#e9e2d2',
  rim: '#f6f1e6',
  otherPaper: '#a39d8f',
  seam: '#85285f',
  seamCasing: '#fbf8f1',
  selected: '#b6d936',
  selectedEdge: '#23201e',
  pen: '#c2458f',
  uncut: '#4a6d73',
  jig: '#2f4fb0',
};

export const palettes: Record<Mode, Palette> = {
  light: {
    ground: '#e7e1d6',
    paper: '#f5f1e8',
    raised: '#fcfaf5',
    line: '#cfc6b5',
    ink: '#2a2623',
    inkSoft: '#5c544c',
    primary: '#1f5f66',
    onPrimary: '#ffffff',
    good: '#2f6b3a',
    warn: '#8a4b00',
    bad: '#a12622',
    stageTop: '#dfd9cd',
    stageBottom: '#c4bcae',
    clay: '#d8cdb9',
    hover: '#0d4a52',
    wire: '#2a2623',
    sheet: '#2e3d44',
    farFrame: '#6b6560',
    ...overlays,
  },
  dark: {
    ground: '#1b1e20',
    paper: '#24282b',
    raised: '#2c3135',
    line: '#434a4f',
    ink: '#efe9dd',
    inkSoft: '#b9b2a6',
    primary: '#7cc4c6',
    onPrimary: '#0f2a2d',
    good: '#8cc993',
    warn: '#e5b063',
    bad: '#f0918a',
    stageTop: '#33393d',
    stageBottom: '#1e2224',
    clay: '#bfb39d',
    hover: '#0d4a52',
    wire: '#2a2623',
    sheet: '#202b30',
    farFrame: '#a8a29a',
    ...overlays,
    mat: '#1a2327',
    matLine: '#233036',
    matLineStrong: '#374850',
  },
};

/** Diverging scale for stretch: ColorBrewer PuOr, 9 classes, reversed so that orange is stretched and purple squeezed; its middle is paper. */
export const stretchScale = ['#542788', '#8073ac', '#b2abd2', '#d8daeb', '#f7f3ea', '#fee0b6', '#fdb863', '#e08214', '#b35806'] as const;

/** What can only be more or less of a fault, from none to much: the orange half of the scale of stretch, longer at its end. */
export const oneWayScale = ['#f7f3ea', '#fee0b6', '#fdb863', '#e08214', '#b35806', '#7f3b08'] as const;

/** Density, from coarse to fine: cividis (Nuñez, Anderton, Renslow 2018), nine of its steps from memory. */
export const densityScale = ['#00204d', '#00336f', '#39486b', '#575d6d', '#7b7b78', '#a69d75', '#c4b56c', '#e4cf5b', '#ffea46'] as const;

/** From along the grain to across it: light to dark, so that it is told without colour too. */
export const grainScale = ['#e4efe6', '#b9d8c0', '#d9c06a', '#cf8a3c', '#a8432c', '#5c1a35'] as const;

/** Relative luminance and contrast by WCAG 2.2. */
export function contrast(a: string, b: string): number {
  const luminance = (hex: string) => {
    const [r, g, bl] = [1, 3, 5].map((k) => parseInt(hex.slice(k, k + 2), 16) / 255).map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4)) as [
      number,
      number,
      number,
    ];
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl;
  };
  const [x, y] = [luminance(a), luminance(b)];
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05);
}

export const rgb = (hex: string): [number, number, number] => [1, 3, 5].map((k) => parseInt(hex.slice(k, k + 2), 16)) as [number, number, number];
