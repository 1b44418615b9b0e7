import type { Scene } from 'three';
import type { AlsoMarks } from '../../../session/messages.ts';
import type { Palette } from '../../../theme/palette.ts';
import { Dots } from './dots.ts';
import { joined, WideLines } from './wideLines.ts';

const none = new Float32Array(0);

/** Lines and dots that say what is a seam, selected, pointed at or about to be cut, in both views. */
export class Marks {
  readonly lines;
  readonly dots;
  private palette: Palette | null = null;
  private penUncuts = false;

  constructor({ model, sheet }: { model: Scene; sheet: Scene }) {
    this.lines = {
      modelSeam: new WideLines({ width: 2.6, casing: 4.6, dashed: true, order: 10 }).addTo(model),
      modelSelected: new WideLines({ width: 3.4, casing: 6, order: 20 }).addTo(model),
      modelAlso: new WideLines({ width: 2.6, casing: 5, order: 18 }).addTo(model),
      modelPen: new WideLines({ width: 3, casing: 6, order: 30 }).addTo(model),
      // below what is selected: that it is selected says more
      modelHover: new WideLines({ width: 2, casing: 4, order: 19 }).addTo(model),
      sheetBorder: new WideLines({ width: 2, casing: 4, order: 10 }).addTo(sheet),
      sheetSelected: new WideLines({ width: 3.2, casing: 5.6, order: 20 }).addTo(sheet),
      modelGrain: new WideLines({ width: 1.8, casing: 3.6, order: 12 }).addTo(model),
      sheetGrain: new WideLines({ width: 1.6, casing: 3.2, order: 12 }).addTo(sheet),
      sheetHover: new WideLines({ width: 2, casing: 4, order: 19 }).addTo(sheet),
      // from a seam edge to its partner on the sheet
      sheetPartner: new WideLines({ width: 1.6, casing: 3.4, dashed: true, order: 39 }).addTo(sheet),
    };
    this.dots = {
      modelSelected: new Dots(7, 21).addTo(model),
      modelAlso: new Dots(6, 18).addTo(model),
      sheetSelected: new Dots(7, 21).addTo(sheet),
      modelHover: new Dots(6, 41).addTo(model),
      sheetHover: new Dots(6, 41).addTo(sheet),
    };
  }

  recolor(palette: Palette): void {
    this.palette = palette;
    const { lines, dots } = this;
    for (const line of [lines.modelSeam, lines.sheetBorder]) line.recolor(palette.seam, palette.seamCasing);
    for (const line of [lines.modelSelected, lines.modelAlso, lines.sheetSelected]) line.recolor(palette.selected, palette.selectedEdge);
    for (const line of [lines.modelHover, lines.sheetHover, lines.sheetPartner]) line.recolor(palette.hover, palette.seamCasing);
    for (const line of [lines.modelGrain, lines.sheetGrain]) line.recolor(palette.selectedEdge, palette.seamCasing);
    lines.modelPen.recolor(this.penUncuts ? palette.uncut : palette.pen, palette.seamCasing);
    for (const dot of [dots.modelSelected, dots.modelAlso, dots.sheetSelected]) dot.recolor(palette.selected, palette.selectedEdge);
    for (const dot of [dots.modelHover, dots.sheetHover]) dot.recolor(palette.hover, palette.seamCasing);
  }

  /** The pen makes edges whole, or cuts them. */
  setPen(uncuts: boolean): void {
    this.penUncuts = uncuts;
    if (this.palette) this.recolor(this.palette);
  }

  /** What is selected of parts beside the one at work. */
  showAlso(marks: readonly AlsoMarks[]): void {
    const placesOf = (isPoints: boolean) => joined(marks.filter(({ kind }) => (kind === 'points') === isPoints).map(({ model }) => model));
    this.lines.modelAlso.set(placesOf(false));
    this.dots.modelAlso.set(placesOf(true));
  }

  /** Takes off what belongs to the part at work. */
  clear(): void {
    for (const [name, one] of [...Object.entries(this.lines), ...Object.entries(this.dots)]) if (name !== 'modelAlso') one.set(none);
  }
}
