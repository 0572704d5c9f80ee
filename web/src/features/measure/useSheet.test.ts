import { describe, expect, it } from "vitest";

import { Lost, Refused } from "../../api/client";
import { failedRows } from "./useSheet";

const refusal = (...fields: [string, string][]) =>
  new Refused(
    422,
    "several",
    fields.map(([, message]) => message).join(" "),
    fields.map(([field, message]) => ({ field, code: "bad_value", message })),
  );

describe("what becomes of the rows of a block that was not saved", () => {
  it("refuses the rows that are named, and leaves the others to be sent again", () => {
    const error = refusal(["runs.1.readings.t", "“quick” is no number."], ["runs.10.position", "Taken."]);
    const positions = Array.from({ length: 11 }, (_, index) => index + 1);
    expect(failedRows(error, positions)).toEqual({
      2: { kind: "refused", message: "“quick” is no number.", cells: { t: "“quick” is no number." } },
      11: { kind: "refused", message: "Taken.", cells: {} },
    });
  });
  it("takes every field of a single row for its own", () => {
    const error = refusal(["readings.t", "“quick” is no number."], ["reason", "Say why."]);
    expect(failedRows(error, [4])).toEqual({
      4: {
        kind: "refused",
        message: "“quick” is no number. Say why.",
        cells: { t: "“quick” is no number." },
      },
    });
  });
  it("refuses all where none is named, and waits with all while the server is away", () => {
    const gone = new Refused(404, "missing", "There is no such machine.", []);
    expect(Object.keys(failedRows(gone, [1, 2]))).toEqual(["1", "2"]);
    expect(failedRows(new Lost(), [1, 2])).toEqual({ 1: { kind: "lost" }, 2: { kind: "lost" } });
    expect(() => failedRows(new TypeError("a bug"), [1])).toThrow("a bug");
  });
});
