interface Spot {
  x: number;
  y: number;
  name: string;
  /** Lines through the spot, which no name may cross. */
  bars?: Box[];
}

export interface Label {
  text: string;
  x: number;
  y: number;
  textAnchor: "start" | "middle" | "end";
  /** From its spot to a name that stands lines away from it. */
  leader?: { x1: number; y1: number; x2: number; y2: number };
}

/** Width of a letter for each pixel of its size: on the wide side, for a name must not be cut off. */
const LETTER = 0.57;
const LINE = 13;
const MOST_LETTERS = 26;
const GAP = 10;

/**
 * A place beside each spot where its name covers no other name or spot: right, left, above or below.
 * Spots on the right choose first, for they have the least room; the names stay within the picture in any case,
 * and are shortened where they are longer than a name needs to be. In a crowd a name goes as many lines up or down as
 * it takes to stand free.
 */
export function placeLabels(spots: Spot[], picture: Box, fontSize = 11): Label[] {
  const lines = Array.from(
    { length: Math.ceil((picture.bottom - picture.top) / LINE) },
    (_, line) => (line + 1) * LINE,
  );
  const taken = spots.flatMap(({ x, y, bars = [] }): Box[] => [
    { left: x - 5, right: x + 5, top: y - 5, bottom: y + 5 },
    ...bars,
  ]);
  const placed = new Map<Spot, Label>();
  for (const spot of [...spots].sort((a, b) => b.x - a.x)) {
    const text = shorten(spot.name);
    const choices: [Label, ...Label[]] = [
      { text, x: spot.x + GAP, y: spot.y + 4, textAnchor: "start" },
      { text, x: spot.x - GAP, y: spot.y + 4, textAnchor: "end" },
      { text, x: spot.x, y: spot.y - GAP, textAnchor: "middle" },
      { text, x: spot.x, y: spot.y + GAP + 10, textAnchor: "middle" },
      { text, x: spot.x + 5, y: spot.y - GAP, textAnchor: "end" },
      { text, x: spot.x + 5, y: spot.y + GAP + 10, textAnchor: "end" },
      ...lines.flatMap((away): Label[] => [
        { text, x: spot.x + GAP, y: spot.y + 4 - away, textAnchor: "start" },
        { text, x: spot.x + GAP, y: spot.y + 4 + away, textAnchor: "start" },
        { text, x: spot.x - GAP, y: spot.y + 4 - away, textAnchor: "end" },
        { text, x: spot.x - GAP, y: spot.y + 4 + away, textAnchor: "end" },
      ]),
    ];
    const boxed = choices.map((label) => ({ label, box: boxOf(label, fontSize) }));
    const inside = boxed.filter(({ box }) => lies(box, picture));
    const free = inside.find(({ box }) => !taken.some((other) => overlaps(box, other)));
    const chosen = free ?? inside[0] ?? { label: choices[0], box: boxOf(choices[0], fontSize) };
    taken.push(chosen.box);
    placed.set(spot, led(chosen.label, spot));
  }
  return spots.flatMap((spot) => placed.get(spot) ?? []);
}

/** The label with a line to its spot where they stand so far apart that they would not be read together. */
function led(label: Label, spot: Spot): Label {
  const away = label.y - 4 - spot.y;
  if (Math.abs(away) < 2 * LINE) return label;
  const x2 = label.textAnchor === "start" ? label.x - 2 : label.textAnchor === "end" ? label.x + 2 : label.x;
  return { ...label, leader: { x1: spot.x, y1: spot.y + Math.sign(away) * 6, x2, y2: label.y - 4 } };
}

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

function shorten(name: string): string {
  return name.length > MOST_LETTERS ? `${name.slice(0, MOST_LETTERS - 1).trimEnd()}…` : name;
}

function boxOf({ text, x, y, textAnchor }: Label, fontSize: number): Box {
  const width = LETTER * fontSize * text.length;
  const left = textAnchor === "start" ? x : textAnchor === "end" ? x - width : x - width / 2;
  return { left, right: left + width, top: y - LINE + 2, bottom: y + 2 };
}

const lies = (box: Box, within: Box): boolean =>
  box.left >= within.left &&
  box.right <= within.right &&
  box.top >= within.top &&
  box.bottom <= within.bottom;

const overlaps = (a: Box, b: Box): boolean =>
  a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;
