import { expect, it } from "vitest";

import { isDay } from "./day";
import { formatDay } from "./format";

it("takes days from 1970 to 2199, and says what is none as it was typed", () => {
  for (const day of ["1970-01-01", "2024-02-29", "2199-12-31"]) expect(isDay(day)).toBe(true);
  for (const day of ["", "12345-05-04", "1969-12-31", "2200-01-01", "2026-13-01", "2026-5-4", "soon"]) {
    expect(isDay(day)).toBe(false);
    expect(formatDay(day)).toBeTypeOf("string");
  }
  expect(formatDay("12345-05-04")).toBe("12345-05-04");
  expect(formatDay("2026-05-04")).toBe("4 May 2026");
});
