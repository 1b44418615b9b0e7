import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { drawGuide, ink, inkOf, isShown, plum, type GuideOptions } from './layoutGuide.ts';
import { textSegments } from './strokeFont.ts';

/** Points of a page for a px, as style sheets have it: 96 px are an inch, 72 points are one. */
export const pointsPerPx = 0.75;

const n = (value: number) => String(Math.round(value * 100) / 100);

/**
 * The layout guide as a PDF (ISO 32000): a page for each of the drawings, in lines and flat colours, no fonts. Written by the library pdf-lib.
 * @param pages what each page shows, with its options
 * @param title stated in the document
 */
export async function guidePdf(pages: readonly { mesh: Mesh; set: UvSet; options: GuideOptions }[], title: string): Promise<Uint8Array> {
  const {
    PDFDocument,
    PDFOperator,
    PDFOperatorNames,
    rgb,
    setFillingColor,
    setStrokingColor,
    setLineWidth,
    setLineCap,
    LineCapStyle,
    concatTransformationMatrix,
    pushGraphicsState,
    popGraphicsState,
  } = await import('pdf-lib');
  const document = await PDFDocument.create();
  document.setTitle(title);
  document.setProducer('Jig Peel');
  document.setCreator('Jig Peel');
  for (const { mesh, set, options } of pages) {
    const { width, height } = options;
    const drawing = drawGuide(mesh, set, options);
    const page = document.addPage([width * pointsPerPx, height * pointsPerPx]);
    const colour = ([r, g, b]: readonly number[]) => rgb(r! / 255, g! / 255, b! / 255);
    // faint lines are mixed with white paper: a transparent one prints badly
    const faint = (c: readonly number[], alpha: number) => c.slice(0, 3).map((x) => x * alpha + 255 * (1 - alpha));
    const path = (list: readonly number[], step: 4 | 6) => {
      const operators = [];
      const to = (name: 'moveTo' | 'lineTo', k: number) =>
        PDFOperator.of(name === 'moveTo' ? PDFOperatorNames.MoveTo : PDFOperatorNames.LineTo, [n(list[k]!), n(list[k + 1]!)]);
      for (let k = 0; k < list.length; k += step) {
        operators.push(to('moveTo', k), to('lineTo', k + 2));
        if (step === 6) operators.push(to('lineTo', k + 4), PDFOperator.of(PDFOperatorNames.ClosePath));
      }
      return operators;
    };
    const stroke = (list: readonly number[], c: readonly number[], thick: number) => {
      if (list.length > 0) page.pushOperators(setStrokingColor(colour(c)), setLineWidth(thick), ...path(list, 4), PDFOperator.of(PDFOperatorNames.StrokePath));
    };
    // px from the top left, as everything is drawn
    page.pushOperators(
      pushGraphicsState(),
      concatTransformationMatrix(pointsPerPx, 0, 0, -pointsPerPx, 0, height * pointsPerPx),
      setLineCap(LineCapStyle.Round),
    );
    stroke(drawing.net[0], faint(ink, 0.12), 0.5);
    stroke(drawing.net[1], faint(ink, 0.28), 0.5);
    for (const { tint, lines } of drawing.rims) stroke(lines, faint(tint, 0.45), 2 * options.bleed!);
    if (options.fills)
      for (const { tint, xy } of drawing.triangles) {
        page.pushOperators(setFillingColor(colour(tint)), setStrokingColor(colour(tint)), setLineWidth(0.6), ...path(xy, 6));
        page.pushOperators(PDFOperator.of(PDFOperatorNames.FillNonZeroAndStroke));
      }
    if (options.innerLines) stroke(drawing.inner, faint(ink, 0.35), 0.6);
    stroke(drawing.borders, plum, 1.6);
    stroke(drawing.ticks, plum, 1.2);
    for (const { text, x, y, height: size } of drawing.labels.filter((one) => isShown(one.text, options)))
      stroke(textSegments(text, x, y, size), inkOf(text), size * 0.12);
    page.pushOperators(popGraphicsState());
  }
  return document.save();
}
