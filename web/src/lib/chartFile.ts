/** A drawing of the page as a file of its own: its colours fixed, what it shows said in words beneath. */

const MARGIN = 16;
/** A caption needs so much room, however narrow the drawing is. */
const LEAST_WIDTH = 520;
const LINE = 18;
const FONT = "Inter, DejaVu Sans, sans-serif";
const LETTER = 6.6;
const SCALE = 2;

/** Words broken into lines of so many letters. */
export function wrapWords(text: string, letters: number): string[] {
  const lines: string[] = [];
  for (const word of text.split(/\s+/).filter(Boolean)) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + 1 + word.length <= letters)
      lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines;
}

const escape = (text: string): string =>
  text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;");

/** Every "var(--x)" by the colour that it has now; a file has no style sheet. */
const withColours = (markup: string, of: Element): string => {
  const style = getComputedStyle(of);
  return markup.replace(
    /var\((--[\w-]+)\)/g,
    (_, name: string) => style.getPropertyValue(name).trim() || "#000",
  );
};

export interface ChartFile {
  svg: string;
  width: number;
  height: number;
}

/** The drawing with its title above and its caption beneath, in the colours that it is shown in. */
export function chartFile(svg: SVGSVGElement, title: string, caption: string[]): ChartFile {
  const box = svg.viewBox.baseVal;
  const [width, height] = box.width ? [box.width, box.height] : [svg.clientWidth, svg.clientHeight];
  const inner = Math.max(width, LEAST_WIDTH);
  const letters = Math.floor(inner / LETTER);
  const [head, foot] = [wrapWords(title, letters - 8), caption.flatMap((text) => wrapWords(text, letters))];
  const top = MARGIN + head.length * LINE + 6;
  const all = { width: inner + 2 * MARGIN, height: top + height + 10 + foot.length * LINE + MARGIN };
  const line = (text: string, y: number, weight: number) =>
    `<text x="${MARGIN}" y="${y}" font-size="13" font-weight="${weight}" fill="var(--ink)">${escape(text)}</text>`;
  const drawing = svg.innerHTML;
  const markup =
    `<svg xmlns="http://www.w3.org/2000/svg" width="${all.width}" height="${all.height}" ` +
    `viewBox="0 0 ${all.width} ${all.height}" font-family="${FONT}">` +
    `<title>${escape(title)}</title><rect width="100%" height="100%" fill="var(--card)"/>` +
    head.map((text, i) => line(text, MARGIN + 12 + i * LINE, 600)).join("") +
    `<svg x="${MARGIN + (inner - width) / 2}" y="${top}" width="${width}" height="${height}" overflow="visible">${drawing}</svg>` +
    foot.map((text, i) => line(text, top + height + 20 + i * LINE, 400)).join("") +
    "</svg>";
  return { svg: withColours(markup, svg), ...all };
}

/** The same as a picture of points, twice as fine as it is large. */
export async function chartPicture({ svg, width, height }: ChartFile): Promise<Blob> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [width * SCALE, height * SCALE];
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) => (blob ? resolve(blob) : reject(new Error("The picture could not be made."))),
      "image/png",
    ),
  );
}
