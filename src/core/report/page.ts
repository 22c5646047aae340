import { type Bar, barsChart } from './chart';
import { escaped } from './escape';
import { TERM_WORDS, TERMS, type Term } from './terms';

/** A piece of a section. */
export type Block =
  | { kind: 'words'; text: string }
  /** Figures stand at the right, from the column `figures` on; a row's last cell may run on as words. */
  | { kind: 'table'; head: string[]; rows: string[][]; figures: number }
  /** Shares of a whole, the largest first. */
  | { kind: 'shares'; rows: { name: string; share: number }[] }
  | { kind: 'pictures'; list: { png: Uint8Array; caption: string }[]; across: number }
  | { kind: 'bars'; each: string; bars: Bar[] };

export interface Section {
  title: string;
  blocks: Block[];
}

/** A report before it is laid out. */
export interface ReportPage {
  title: string;
  /** Lines under the title: of what it is, when, by which program. */
  about: string[];
  sections: Section[];
  /** Figures that it uses, which are explained at its end. */
  terms: Term[];
}

const STYLE = `
:root { color-scheme: light; }
body { font: 14px/1.45 system-ui, sans-serif; color: #1b1b1b; background: #fff; max-width: 1080px; margin: 28px auto; padding: 0 24px; }
h1 { font-size: 22px; margin: 0 0 2px; }
h2 { font-size: 15px; margin: 26px 0 8px; border-bottom: 1px solid #c8c8c8; padding-bottom: 3px; }
.about { color: #5a5a5a; margin: 0; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
th, td { text-align: left; padding: 3px 18px 3px 0; vertical-align: top; }
th { color: #5a5a5a; font-weight: 400; border-bottom: 1px solid #dadada; }
.n { text-align: right; white-space: nowrap; }
figure { margin: 0; break-inside: avoid; }
figure img { display: block; width: 100%; background: #2a2a2a; }
figcaption { color: #5a5a5a; font-size: 12px; padding: 3px 0 8px; font-variant-numeric: tabular-nums; }
.pictures { display: grid; gap: 10px; }
.share { display: inline-block; height: 9px; background: #6e6e6e; vertical-align: baseline; }
dl { display: grid; grid-template-columns: 180px 1fr; gap: 4px 14px; font-size: 12.5px; }
dt { color: #5a5a5a; } dd { margin: 0; }
table + table, svg, svg + table { margin-top: 12px; }
svg { display: block; max-width: 100%; }
tr { break-inside: avoid; }
@media print { body { margin: 0; max-width: none; padding: 0; font-size: 11px; } h2 { break-after: avoid; } }
`;

/** Bytes as text of base 64. */
function base64(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

function table({ head, rows, figures }: Extract<Block, { kind: 'table' }>): string {
  const row = (cells: readonly string[], tag: 'th' | 'td') =>
    `<tr>${cells.map((c, i) => `<${tag}${i >= figures ? ' class="n"' : ''}>${escaped(c)}</${tag}>`).join('')}</tr>`;
  const header = head.some((h) => h !== '') ? `<thead>${row(head, 'th')}</thead>` : '';
  return `<table>${header}<tbody>${rows.map((r) => row(r, 'td')).join('')}</tbody></table>`;
}

const SHARE_PX = 260;

function shares({ rows }: Extract<Block, { kind: 'shares' }>): string {
  const line = ({ name, share }: { name: string; share: number }) =>
    `<tr><td>${escaped(name)}</td><td class="n">${(share * 100).toFixed(1)} %</td><td><span class="share" style="width:${Math.max(1, Math.round(share * SHARE_PX))}px"></span></td></tr>`;
  return `<table><tbody>${rows.map(line).join('')}</tbody></table>`;
}

function block(b: Block): string {
  switch (b.kind) {
    case 'words':
      return `<p>${escaped(b.text)}</p>`;
    case 'table':
      return table(b);
    case 'shares':
      return shares(b);
    case 'bars':
      return barsChart(b.bars, b.each);
    case 'pictures':
      return `<div class="pictures" style="grid-template-columns:repeat(${b.across},minmax(0,1fr))">${b.list
        .map(
          ({ png, caption }) =>
            `<figure><img alt="${escaped(caption)}" src="data:image/png;base64,${base64(png)}"><figcaption>${escaped(caption)}</figcaption></figure>`,
        )
        .join('')}</div>`;
  }
}

/**
 * A report as one HTML document that asks for nothing beside itself: pictures are in it, scripts are not. It prints, and says what
 * each of its figures is.
 */
export function reportHtml({ title, about, sections, terms }: ReportPage): string {
  const parts = sections.filter((s) => s.blocks.length > 0);
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src data:; style-src 'unsafe-inline'">
<meta name="viewport" content="width=device-width">
<title>${escaped(title)}</title>
<style>${STYLE}</style>
</head>
<body>
<h1>${escaped(title)}</h1>
${about.map((a) => `<p class="about">${escaped(a)}</p>`).join('\n')}
${parts.map((s) => `<section>\n<h2>${escaped(s.title)}</h2>\n${s.blocks.map(block).join('\n')}\n</section>`).join('\n')}
<section>
<h2>What the figures are</h2>
<dl>${[...new Set(terms)].map((t) => `<dt>${escaped(TERM_WORDS[t])}</dt><dd>${escaped(TERMS[t])}</dd>`).join('')}</dl>
</section>
</body>
</html>
`;
}
