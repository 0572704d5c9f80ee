import { afterEach, describe, expect, it, vi } from "vitest";

import { chartFile, wrapWords } from "./chartFile";

it("breaks a caption into lines between words, and loses none of them", () => {
  const text = "Tile rendering 1.34× as fast, real; 95 % interval +32.7 to +35.5 %";
  const lines = wrapWords(text, 24);
  expect(lines.join(" ")).toBe(text);
  expect(Math.max(...lines.map((line) => line.length))).toBeLessThanOrEqual(24);
  expect(wrapWords("averylongwordthatfitsnowhere", 5)).toEqual(["averylongwordthatfitsnowhere"]);
});

describe("a drawing as a file", () => {
  afterEach(() => {
    vi.unstubAllGlobals();
  });
  const drawn = (width: number, inside: string) => {
    vi.stubGlobal("getComputedStyle", () => ({
      getPropertyValue: (name: string) => (name === "--ink" ? " #123456 " : ""),
    }));
    const svg = { viewBox: { baseVal: { width, height: 100 } }, clientWidth: 640, clientHeight: 200 };
    return chartFile({ ...svg, innerHTML: inside } as unknown as SVGSVGElement, "A & B <before>", [
      "One line.",
      "Another > one.",
    ]);
  };
  it("stands alone: colours fixed, title above, words beneath, nothing of them markup", () => {
    const { svg, width, height } = drawn(400, '<path stroke="var(--ink)" fill="var(--none)"/>');
    expect([width, height]).toEqual([552, 16 + 18 + 6 + 100 + 10 + 36 + 16]);
    expect(svg).toContain("<title>A &amp; B &lt;before&gt;</title>");
    expect(svg).toContain('<path stroke="#123456" fill="#000"/>');
    expect(svg).not.toContain("var(");
    const lines = [...svg.matchAll(/<text x="16" y="(\d+)" [^>]*>([^<]*)</g)].map(([, y, text]) => [
      Number(y),
      text,
    ]);
    expect(lines).toEqual([
      [28, "A &amp; B &lt;before&gt;"],
      [160, "One line."],
      [178, "Another &gt; one."],
    ]);
    expect(svg).toContain('<svg x="76" y="40" width="400" height="100"');
    expect(svg.endsWith("</svg>")).toBe(true);
  });
  it("is as large as it stands on the page where it has no size of its own", () => {
    expect(drawn(0, "").width).toBe(672);
  });
});
