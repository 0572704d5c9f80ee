import { readFileSync, writeSync } from "node:fs";

import type { Paper, PaperSize } from "./features/report/model";
import { paperHtml } from "./features/report/paperHtml";

/** For the command line: a report comes in as JSON, and goes out as the file that the page saves. */
const { size, ...paper } = JSON.parse(readFileSync(0, "utf8")) as Paper & { size: PaperSize };
const html = Buffer.from(paperHtml(paper, size));
for (let written = 0; written < html.length;) written += writeSync(1, html, written);
