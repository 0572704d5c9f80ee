import { expect, it } from "vitest";

import { readMoney, writeMoney } from "./money";

it("keeps every digit of an amount, whatever its size, and hands on what is none", () => {
  expect(readMoney("123456789012345678.91", ".")).toBe("123456789012345678.91");
  expect(readMoney("1.240,50", ",")).toBe("1240.50");
  expect(readMoney("  about 40 ", ".")).toBe("about 40");
});

it("writes an amount with the machine's mark, and nothing where there is none", () => {
  expect([writeMoney("1240.50", ","), writeMoney("1240.50", ".")]).toEqual(["1240,50", "1240.50"]);
  expect([writeMoney(null, ","), writeMoney(undefined, ".")]).toEqual(["", ""]);
});
