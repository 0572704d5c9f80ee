import type { Reckoning } from "../../api/client";

export type Setting = Reckoning["settings"][number];

/** What the switches are set to; kept in the address. */
export interface Switches {
  labour: boolean;
  years: number;
}

/** So many years are asked for along with none, so that the switch has its result at once. */
export const USUAL_YEARS = 3;

export const switchesOf = (params: URLSearchParams): Switches => {
  const years = Number(params.get("years") ?? 0);
  return {
    labour: params.get("labour") !== "without",
    years: Number.isInteger(years) && years > 0 && years <= 30 ? years : 0,
  };
};

/** The report of a swap, made up on the same switches. */
export const reportAddress = (swap: string, { labour, years }: Switches): string =>
  `../report?swap=${swap}${labour ? "" : "&labour=without"}${years ? `&years=${years}` : ""}`;

/** The setting that the switches name; where nothing depends on one of them, the one that there is. */
export function settingOf(reckoning: Reckoning, { labour, years }: Switches): Setting {
  const [first] = reckoning.settings;
  if (!first) throw new Error("A reckoning has one setting at least.");
  const fits = (setting: Setting) => Number(setting.labour === labour) + 2 * Number(setting.years === years);
  return reckoning.settings.reduce((best, next) => (fits(next) > fits(best) ? next : best), first);
}
