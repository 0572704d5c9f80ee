import { describe, expect, it } from "vitest";

import { placeLabels } from "./labels";

const PICTURE = { left: 0, right: 300, top: 0, bottom: 200 };

describe("names beside spots", () => {
  const places = (...spots: [number, number, string][]) =>
    placeLabels(
      spots.map(([x, y, name]) => ({ x, y, name })),
      PICTURE,
    ).map((label) => label.textAnchor);
  it("stand on the right, or on the left where the picture ends", () => {
    expect(places([50, 50, "Tile rendering"], [280, 90, "Photo stitching"])).toEqual(["start", "end"]);
  });
  it("go round a neighbour: to the left, then above", () => {
    expect(places([120, 50, "Photo stitching"], [150, 50, "Archive packing"])).toEqual(["end", "start"]);
    const between = places([120, 50, "One job"], [180, 50, "Another job"], [150, 50, "Middle"]);
    expect(between).toEqual(["end", "start", "middle"]);
  });
  it("are shortened where they are longer than a name needs to be", () => {
    const [label] = placeLabels([{ x: 50, y: 50, name: "Render the tiles of the whole valley" }], PICTURE);
    expect(label?.text).toBe("Render the tiles of the w…");
  });
  it("leave the left of a spot at the end to its own name", () => {
    const crowded = places([140, 60, "Archive packing"], [290, 62, "Photo stitching"]);
    expect(crowded).toEqual(["end", "end"]);
  });
  it("cover no other name in a crowd, and none is lost", () => {
    const crowd = Array.from({ length: 8 }, (_, nth) => ({
      x: 150 + nth,
      y: 100 + (nth % 3),
      name: "Photo stitching",
    }));
    const labels = placeLabels(crowd, PICTURE);
    expect(labels).toHaveLength(8);
    labels.forEach((one, nth) => {
      expect(one.y).toBeGreaterThanOrEqual(11);
      expect(one.y).toBeLessThanOrEqual(198);
      for (const other of labels.slice(nth + 1))
        expect(one.textAnchor !== other.textAnchor || Math.abs(one.y - other.y) >= 13).toBe(true);
    });
  });
});
