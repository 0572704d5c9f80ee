import inter from "@fontsource-variable/inter/files/inter-latin-wght-normal.woff2?inline";
import { renderToStaticMarkup } from "react-dom/server";

import css from "./paper.css?inline";
import { type Paper, type PaperSize } from "./model";
import { Sheet } from "./Sheet";

/** A report as one file that stands alone: no script, no network, its pictures inside. */
export function paperHtml(paper: Paper, size: PaperSize): string {
  const title = `${paper.report.machine}: ${paper.report.title}`;
  const font = `@font-face { font-family: "Inter Variable"; font-weight: 100 900; src: url(${inter}) format("woff2"); }`;
  // Letter is shorter: what fits on a page of A4 shall fit on one of it too.
  const [margin, letters] = size === "letter" ? ["10mm 14mm 11mm", "8.4pt"] : ["12mm 14mm 14mm", "9pt"];
  const page = `@page { size: ${size}; margin: ${margin};
  @bottom-right { content: "page " counter(page) " of " counter(pages); font: 8pt sans-serif; color: #5c6673; } }
.sheet.short.short { font-size: ${letters}; } body { margin: 0; background: #f5f3ee; } @media print { body { background: none; } }`;
  const markup = renderToStaticMarkup(
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>{title}</title>
        <style dangerouslySetInnerHTML={{ __html: font + page + css }} />
      </head>
      <body>
        <main>
          <Sheet {...paper} />
        </main>
      </body>
    </html>,
  );
  return `<!doctype html>\n${markup}\n`;
}
