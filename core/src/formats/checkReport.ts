import { encode } from 'fast-png';
import { islandTint } from '../images/islandTint.ts';
import { guideSvg } from '../images/layoutGuide.ts';
import { modelPicture, type PictureView } from '../images/modelPicture.ts';
import type { CheckReport } from '../measure/check.ts';
import { figureWords, limitWords, type Verdict } from '../measure/judge.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { islandDensities } from '../pack/density.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { onceEach } from '../uv/stacks.ts';
import type { UvSet } from '../uv/uvSet.ts';

export interface ReportSheet {
  name: string;
  width: number;
  height: number;
  /** All parts of the sheet as one. */
  mesh: Mesh;
  set: UvSet;
  parts: readonly string[];
  report: CheckReport;
  verdicts: readonly Verdict[];
}

export interface ReportInput {
  job: string;
  /** When, as it is to be read. */
  made: string;
  sheets: readonly ReportSheet[];
  /** Limits by the name they are known under. */
  limitsName: string;
}

/** The report for programs: what was measured, what was asked, and what came of it. */
export function reportJson({ job, made, sheets, limitsName }: ReportInput): string {
  return `${JSON.stringify(
    {
      jigPeelReport: 1,
      job,
      made,
      limits: limitsName,
      passed: sheets.every(({ verdicts }) => verdicts.every(({ passed }) => passed)),
      sheets: sheets.map(({ name, width, height, parts, report, verdicts }) => ({ name, width, height, parts, report, verdicts })),
    },
    null,
    2,
  )}\n`;
}

const escaped = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** The report as one HTML file that needs nothing else: verdicts, figures, charts, the sheet and the model from four sides. */
export function reportHtml(input: ReportInput): string {
  const { job, made, sheets, limitsName } = input;
  const missed = sheets.flatMap(({ verdicts }) => verdicts.filter(({ passed }) => !passed)).length;
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(job)}: layout report</title>
<style>
body { font: 14px/1.5 system-ui, sans-serif; color: #1f2a2e; background: #fff; max-width: 1000px; margin: 2rem auto; padding: 0 1rem; }
h1 { font-size: 1.6rem; margin: 0; } h2 { font-size: 1.2rem; margin: 2rem 0 .5rem; border-top: 1px solid #ccd; padding-top: 1rem; } h3 { font-size: 1rem; margin: 1.2rem 0 .4rem; }
table { border-collapse: collapse; width: 100%; } th, td { text-align: left; padding: .25rem .6rem; border-bottom: 1px solid #e3e6e8; } td.n { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap; }
.verdict { font-weight: 600; } .no { color: #a01616; } .yes { color: #17663a; }
.pictures { display: grid; grid-template-columns: repeat(auto-fit, minmax(200px, 1fr)); gap: 8px; } figure { margin: 0; } figcaption { font-size: 12px; color: #4d5a60; }
img, .sheet svg { width: 100%; height: auto; background: #eef0f1; border: 1px solid #d5dadd; } .sheet { max-width: 640px; }
svg text { font: 11px system-ui, sans-serif; fill: #33424a; }
@media print { body { margin: 0; max-width: none; } h2 { break-before: page; } section:first-of-type h2 { break-before: avoid; } tr, figure, .chart { break-inside: avoid; } }
</style>
</head>
<body>
<h1>${escaped(job)}</h1>
<p>Layout report of ${escaped(made)}, by ${escaped(limitsName)}. <span class="verdict ${missed > 0 ? 'no' : 'yes'}">${missed === 0 ? '✓ All limits are kept.' : `✗ ${missed} ${missed === 1 ? 'limit is' : 'limits are'} not kept.`}</span></p>
${sheets.map(sheetSection).join('\n')}
</body>
</html>
`;
}

function sheetSection(sheet: ReportSheet): string {
  const { name, width, height, parts, report, verdicts, mesh, set } = sheet;
  const once = onceEach(mesh, set);
  return `<section>
<h2>${escaped(name)}</h2>
<p>${width} × ${height} px; ${parts.map(escaped).join(', ')}.</p>
<table>
<thead><tr><th>Limit</th><th>Asked for</th><th>Measured</th><th>Verdict</th></tr></thead>
<tbody>
${verdicts.map(verdictRow).join('\n')}
</tbody>
</table>
<div class="pictures">
${(['front', 'right', 'back', 'above'] as const).map((view) => pictureOf(mesh, set, view)).join('\n')}
</div>
<h3>The sheet</h3>
<div class="sheet">${guideSvg(mesh, once, { width, height, fills: true, innerLines: false, names: true }).replace(/^<\?xml[^>]*\?>\s*/, '')}</div>
<h3>Texel density of the islands</h3>
${densityChart(mesh, once, width, height)}
<h3>All figures</h3>
<table>
<tbody>
${Object.entries(report)
  .map(
    ([key, value]) =>
      `<tr><th>${escaped(key)}</th><td class="n">${value === null ? '–' : typeof value === 'number' && !Number.isInteger(value) ? value.toPrecision(6) : escaped(String(value))}</td></tr>`,
  )
  .join('\n')}
</tbody>
</table>
</section>`;
}

function verdictRow({ key, figure, limit, passed }: Verdict): string {
  const { label, way, help } = limitWords[key];
  return `<tr><td title="${escaped(help)}">${escaped(label)}</td><td>${way === 'most' ? 'at most' : 'at least'} ${figureWords(key, limit)}</td><td class="n">${figureWords(key, figure)}</td><td class="verdict ${passed ? 'yes' : 'no'}">${passed ? '✓ kept' : '✗ not kept'}</td></tr>`;
}

const pictureSize = 280;

function pictureOf(mesh: Mesh, set: UvSet, view: PictureView): string {
  const { ofFace } = islandsOf(mesh, set);
  const data = modelPicture([{ mesh, colourOf: (f) => (set.unplaced[f] ? [153, 153, 153] : islandTint(ofFace[f]!)) }], view, pictureSize);
  const png = encode({ width: pictureSize, height: pictureSize, data, channels: 4, depth: 8 });
  return `<figure><img alt="The model from ${view}, each island in its colour" src="data:image/png;base64,${base64(png)}"><figcaption>${view === 'above' ? 'from above' : `from the ${view}`}</figcaption></figure>`;
}

/** Area by density: what share of the model has which texel density. */
function densityChart(mesh: Mesh, set: UvSet, width: number, height: number): string {
  const all = islandDensities(mesh, set, width, height).filter(({ density, area }) => density > 0 && area > 0);
  if (all.length === 0) return '<p>Nothing is on the sheet yet.</p>';
  const area = all.reduce((sum, one) => sum + one.area, 0);
  const low = Math.min(...all.map(({ density }) => density));
  const high = Math.max(...all.map(({ density }) => density));
  const bins = 24;
  const from = low === high ? low * 0.95 : low;
  const step = ((low === high ? high * 1.05 : high) - from) / bins;
  const share = new Float64Array(bins);
  const letters: string[][] = Array.from({ length: bins }, () => []);
  for (const { density, area: own, island } of all) {
    const k = Math.min(bins - 1, Math.floor((density - from) / step));
    share[k]! += own / area;
    letters[k]!.push(islandLetter(island));
  }
  const most = Math.max(...share);
  const bars = [...share]
    .map((value, k) =>
      value === 0
        ? ''
        : `<rect x="${40 + k * 24}" y="${(130 - (110 * value) / most).toFixed(1)}" width="20" height="${((110 * value) / most).toFixed(1)}" fill="#1f6b75"><title>${(from + k * step).toPrecision(3)} to ${(from + (k + 1) * step).toPrecision(3)} px per unit: ${(value * 100).toFixed(1)} % of the area (${escaped(letters[k]!.slice(0, 12).join(', '))}${letters[k]!.length > 12 ? ' …' : ''})</title></rect>`,
    )
    .join('');
  return `<div class="chart"><svg viewBox="0 0 640 170" role="img" aria-label="Share of the area by texel density, from ${low.toPrecision(3)} to ${high.toPrecision(3)} px per unit">
<line x1="36" y1="130" x2="620" y2="130" stroke="#8a979d"/>${bars}
<text x="36" y="150">${from.toPrecision(3)}</text><text x="620" y="150" text-anchor="end">${(from + bins * step).toPrecision(3)} px per unit</text><text x="36" y="16">${(most * 100).toFixed(0)} % of the area</text>
</svg></div>`;
}

const letters64 = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** RFC 4648, which neither every engine nor the core's own types have. */
function base64(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let k = 0; k < bytes.length; k += 3) {
    const three = (bytes[k]! << 16) | ((bytes[k + 1] ?? 0) << 8) | (bytes[k + 2] ?? 0);
    const four = [18, 12, 6, 0].map((shift) => letters64[(three >> shift) & 63]!);
    out.push(...four.slice(0, Math.min(4, bytes.length - k + 1)), '='.repeat(Math.max(0, 2 - (bytes.length - k - 1))));
  }
  return out.join('');
}
