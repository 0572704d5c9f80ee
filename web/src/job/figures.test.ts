import { describe, expect, it } from "vitest";

import type { Figure, PartRole } from "../api/client";
import {
  figureName,
  readFigures,
  readValue,
  sayImpossible,
  sayUnreadFigure,
  OWN_SEAT,
  type Place,
  placesOf,
  writeFigures,
  writePlace,
} from "./figures";

const figure = (key: string, kind: Figure["kind"], unit: string, ...words: string[]): Figure => ({
  key,
  label: key.replaceAll("_", " "),
  kind,
  unit,
  words,
  possible: unit === "GHz" ? { low: 0.001, high: 12, beyond: "No part of a PC runs at that" } : null,
});

const PROCESSOR = [
  figure("cores", "count", "", "cores", "core"),
  figure("threads", "count", "", "threads", "thread"),
  figure("base_ghz", "number", "GHz", "GHz base", "GHz"),
  figure("boost_ghz", "number", "GHz", "GHz boost"),
  figure("power_w", "number", "W", "W"),
  figure("socket", "text", "", "socket"),
  figure("applied", "date", "", "applied"),
];

it("asks of a figure that no PC has whether it is typed right", () => {
  const worded = (text: string) => sayImpossible(readFigures(text, PROCESSOR, ","), PROCESSOR, ",");
  expect(worded("4.200 GHz boost")).toBe("4200 GHz? No part of a PC runs at that. Is it typed right?");
  expect(worded("4,2 GHz boost, 9000 W")).toBeUndefined();
});

describe("the name of another part", () => {
  const place = (key: string, ...words: string[]) =>
    ({ key, kind: "part", label: key, unit: "", words, possible: null }) as Figure;
  const DRIVE = [figure("size_gb", "number", "GB", "GB"), place("seat", "sits in", "in")];
  const PASTE = [place("belongs_to", "belongs to", "on the", "on")];
  const fitted: { role: PartRole; label: string }[] = [
    { role: "adapter", label: "Riser" },
    { role: "processor", label: "Kestrel 6" },
  ];
  const offered = (text: string, figures: Figure[]) =>
    placesOf(readFigures(text, figures, "."), figures, fitted).map(({ chosen, choices }) => [
      chosen,
      ...choices,
    ]);

  it("is chosen from the fitted parts that it may mean", () => {
    expect(offered("500 GB", DRIVE)).toEqual([["", OWN_SEAT, "Riser"]]);
    expect(offered("500 GB, in the rizer", DRIVE)).toEqual([["the rizer", OWN_SEAT, "Riser"]]);
    expect(offered("", PASTE)).toEqual([]);
    expect(offered("on the card", PASTE)).toEqual([["card", "Kestrel 6"]]);
    fitted.push({ role: "graphics", label: "Ostra 8" });
    expect(offered("", PASTE)).toEqual([["", "Kestrel 6", "Ostra 8"]]);
  });

  it("is written in place of what was typed, and read back", () => {
    const [seat] = placesOf({}, DRIVE, fitted);
    const chosen = writePlace("in the rizer, 500 GB", DRIVE, seat as Place, "Riser", ".");
    expect(chosen).toBe("500 GB, sits in Riser");
    expect(readFigures(chosen, DRIVE, ".")).toEqual({ size_gb: 500, seat: "Riser" });
    expect(writePlace(chosen, DRIVE, seat as Place, "", ".")).toBe("500 GB");
  });
});

describe("rated figures as they are typed", () => {
  it.each([
    ["6 cores, 12 threads, 3.4 GHz, 65 W", { cores: 6, threads: 12, base_ghz: 3.4, power_w: 65 }],
    ["6 core; boost GHz 3.9", { cores: 6, noted: "boost GHz 3.9" }],
    ["3.2 to 3.6 GHz", { base_ghz: 3.2, boost_ghz: 3.6 }],
    ["3,2 GHz base, 51W", { base_ghz: "3,2", power_w: 51 }],
    ["12,34,5 W", { power_w: "12,34,5" }],
    ["1,000 W, 1 200 threads", { power_w: 1000, threads: 1200 }],
    ["65 W,4 cores", { power_w: 65, cores: 4 }],
    ["cores 4", { cores: 4 }],
    ["socket V2, from the drawer", { socket: "V2", noted: "from the drawer" }],
    ["2.5 cores", { cores: 2.5 }],
    ["applied 2026-05", { applied: "2026-05" }],
    ["", {}],
  ])("reads “%s”", (text, rated) => {
    expect(readFigures(text, PROCESSOR, ".")).toEqual(rated);
  });

  it("reads by the machine's decimal mark, so that thousands are no decimals", () => {
    const drive = [
      figure("size_gb", "number", "GB", "GB"),
      figure("write_mbs", "number", "MB/s", "MB/s write"),
    ];
    const read = (text: string, mark: "." | ",") => readFigures(text, drive, mark);
    expect(read("1,000 GB, 3,000 MB/s write", ".")).toEqual({ size_gb: 1000, write_mbs: 3000 });
    expect(read("1.000 GB, 3.000,5 MB/s write", ",")).toEqual({ size_gb: 1000, write_mbs: 3000.5 });
    expect(read("1,000 GB", ",")).toEqual({ size_gb: 1 });
    expect(read("3,20 GB", ".")).toEqual({ size_gb: "3,20" });
  });

  it("reads a span of clocks only for a part that has clocks", () => {
    const board = [figure("memory_slots", "count", "", "slots")];
    expect(readFigures("3.2 to 3.6 GHz, 4 slots", board, ".")).toEqual({
      memory_slots: 4,
      noted: "3.2 to 3.6 GHz",
    });
  });

  it("asks back what can't be read, and guesses nothing", () => {
    expect(sayUnreadFigure(readFigures("1,5 GHz", PROCESSOR, "."), PROCESSOR, ".")).toMatch(
      /“1,5” is no number/,
    );
    expect(sayUnreadFigure(readFigures("1,500.5 W, a gift", PROCESSOR, "."), PROCESSOR, ".")).toBeUndefined();
  });

  it.each<Record<string, string | number>>([
    { cores: 4, threads: 8, base_ghz: 3.2, boost_ghz: 3.6, power_w: 51, socket: "V2" },
    { cores: 4, noted: "a gift" },
    {},
  ])("reads back what it writes", (rated) => {
    for (const mark of [".", ","] as const)
      expect(readFigures(writeFigures(rated, PROCESSOR, mark), PROCESSOR, mark)).toEqual(rated);
  });

  it("takes a number where the figure is one, and leaves the rest as text", () => {
    expect(readValue(" 65 ", PROCESSOR[4], ".")).toBe(65);
    expect(readValue("auto", PROCESSOR[4], ".")).toBe("auto");
    expect(readValue("12", PROCESSOR[5], ".")).toBe("12");
    expect(readValue("12", undefined, ".")).toBe(12);
    expect(readValue("  ", PROCESSOR[4], ".")).toBeNull();
    expect(figureName("power_w", PROCESSOR)).toBe("power w, W");
    expect(figureName("fan_mode", PROCESSOR)).toBe("fan mode");
  });
});
