import { expect, it } from "vitest";

import { splitColumns } from "./model";

it("parts a block from a spreadsheet into both columns, of unlike length too", () => {
  expect(splitColumns("40.1\t30.2\r\n40.3\t30.1\n40.2\n")).toEqual({
    before: "40.1\n40.3\n40.2",
    after: "30.2\n30.1",
  });
  expect(splitColumns("40.1\n40.3")).toBeNull();
});
