import { describe, expect, it } from "vitest";

import type { Reckoning } from "../../api/client";
import { type Setting, settingOf, switchesOf } from "./model";

const setting = (labour: boolean, years: number): Setting =>
  ({ labour, years, options: [] }) as unknown as Setting;
const reckoning = (...settings: Setting[]) => ({ settings }) as unknown as Reckoning;

describe("the switches of a bill", () => {
  it("are read from the address, with labour and over no years where it names none", () => {
    expect(switchesOf(new URLSearchParams())).toEqual({ labour: true, years: 0 });
    expect(switchesOf(new URLSearchParams("labour=without&years=5"))).toEqual({ labour: false, years: 5 });
    for (const years of ["-1", "31", "1.5", "many"])
      expect(switchesOf(new URLSearchParams({ years })).years).toBe(0);
  });
  it("choose the setting that they name, and the one that there is where a switch has no effect", () => {
    const all = reckoning(setting(true, 0), setting(false, 0), setting(true, 3), setting(false, 3));
    expect(settingOf(all, { labour: false, years: 3 })).toMatchObject({ labour: false, years: 3 });
    expect(settingOf(all, { labour: true, years: 0 })).toMatchObject({ labour: true, years: 0 });
    const plain = reckoning(setting(true, 0));
    expect(settingOf(plain, { labour: false, years: 3 })).toMatchObject({ labour: true, years: 0 });
  });
});
