interface Spot {
  x: number;
  y: number;
  name: string;
}

interface Label {
  x: number;
  y: number;
  textAnchor: "start" | "middle" | "end";
}

const LETTER = 6.2;
const LINE = 13;
const GAP = 9;

/**
 * A place beside each spot where its name covers no other name or spot: right, left, above or below.
 * Spots on the right choose first, for they have the least room; the names stay within the picture in any case.
 */
export function placeLabels(spots: Spot[], left: number, right: number): Label[] {
  const taken = spots.map(({ x, y }) => ({ left: x - 5, right: x + 5, top: y - 5, bottom: y + 5 }));
  const placed = new Map<Spot, Label>();
  for (const spot of [...spots].sort((a, b) => b.x - a.x)) {
    const choices: [Label, ...Label[]] = [
      { x: spot.x + GAP, y: spot.y + 4, textAnchor: "start" },
      { x: spot.x - GAP, y: spot.y + 4, textAnchor: "end" },
      { x: spot.x, y: spot.y - GAP, textAnchor: "middle" },
      { x: spot.x, y: spot.y + GAP + 10, textAnchor: "middle" },
      { x: spot.x + 5, y: spot.y - GAP, textAnchor: "end" },
      { x: spot.x + 5, y: spot.y + GAP + 10, textAnchor: "end" },
    ];
    const inside = choices.filter((label) => {
      const box = boxOf(label, spot.name);
      return box.left >= left && box.right <= right;
    });
    const free = inside.find((label) => !taken.some((other) => overlaps(boxOf(label, spot.name), other)));
    const chosen = free ?? inside[0] ?? choices[0];
    taken.push(boxOf(chosen, spot.name));
    placed.set(spot, chosen);
  }
  return spots.flatMap((spot) => placed.get(spot) ?? []);
}

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

function boxOf({ x, y, textAnchor }: Label, name: string): Box {
  const width = LETTER * name.length;
  const left = textAnchor === "start" ? x : textAnchor === "end" ? x - width : x - width / 2;
  return { left, right: left + width, top: y - LINE + 2, bottom: y + 2 };
}

const overlaps = (a: Box, b: Box): boolean =>
  a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;
