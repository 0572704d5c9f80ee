import type { SetURLSearchParams } from "react-router";

import type { Reckoning } from "../../api/client";
import { ChoiceField } from "../../ui/Field";
import { Tick } from "../../ui/Tick";
import type { Switches as Setting } from "./model";

interface Props {
  reckoning: Reckoning;
  switches: Setting;
  onChange: SetURLSearchParams;
}

const YEARS = ["0", "1", "2", "3", "4", "5", "7", "10"];

/** With or without labour, and over how many years: shown where a line of the account depends on it. */
export function Switches({ reckoning, switches, onChange }: Props) {
  const hasLabour = reckoning.settings.some(({ labour }) => !labour);
  const hasYears = reckoning.settings.some(({ years }) => years > 0);
  if (!hasLabour && !hasYears) return null;
  const set = (name: string, value: string | null) =>
    onChange(
      (params) => {
        const next = new URLSearchParams(params);
        if (value === null) next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const years = [...new Set([...YEARS, String(switches.years)])].sort((a, b) => Number(a) - Number(b));
  return (
    <div className="flex flex-wrap items-end gap-x-6 gap-y-2 border-t border-line pt-2">
      {hasLabour && (
        <div className="w-36">
          <Tick
            label="With labour"
            checked={switches.labour}
            onChange={(labour) => set("labour", labour ? null : "without")}
          />
        </div>
      )}
      {hasYears && (
        <div className="w-44">
          <ChoiceField
            label="Electricity over"
            value={String(switches.years)}
            choices={years.map(
              (n) => [n, n === "0" ? "no years" : `${n} year${n === "1" ? "" : "s"}`] as const,
            )}
            onChange={(chosen) => set("years", chosen === "0" ? null : chosen)}
          />
        </div>
      )}
    </div>
  );
}
