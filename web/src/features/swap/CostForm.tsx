import type { Machine } from "../../api/client";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { COST_KINDS, type CostDraft, emptyCost } from "./model";

interface Props {
  machine: Machine;
  costs: CostDraft[];
  onChange: (costs: CostDraft[]) => void;
  /** What the server said of a field of a line. */
  problemAt: (key: string, field: string) => string | undefined;
}

/** Cost lines as they arise. Amounts are positive; resale and reuse come in. */
export function CostForm({ machine, costs, onChange, problemAt }: Props) {
  const edit = (key: string, change: Partial<CostDraft>) =>
    onChange(costs.map((cost) => (cost.key === key ? { ...cost, ...change } : cost)));
  return (
    <fieldset className="card">
      <legend className="eyebrow px-1">Cost lines</legend>
      <ul className="space-y-3">
        {costs.map((cost, index) => {
          const foreign = cost.currency.trim().toUpperCase() !== machine.currency;
          const n = index + 1;
          const at = (field: string) => problemAt(cost.key, field);
          return (
            <li
              key={cost.key}
              className="grid grid-cols-2 gap-2 sm:grid-cols-[9.5rem_1fr_7rem_6rem_6rem_6rem]"
            >
              <ChoiceField
                label={`Kind of cost ${n}`}
                hideLabel
                value={cost.kind}
                choices={COST_KINDS}
                onChange={(kind) => edit(cost.key, { kind })}
              />
              <TextField
                label={`What cost ${n} is for`}
                hideLabel
                placeholder="what for"
                value={cost.label}
                problem={at("label")}
                onChange={(label) => edit(cost.key, { label })}
              />
              <TextField
                label={`Amount of cost ${n}`}
                hideLabel
                placeholder="amount"
                inputMode="decimal"
                value={cost.amount}
                problem={at("amount")}
                onChange={(amount) => edit(cost.key, { amount })}
              />
              <TextField
                label={`Currency of cost ${n}`}
                hideLabel
                maxLength={3}
                value={cost.currency}
                problem={at("currency")}
                onChange={(currency) => edit(cost.key, { currency })}
              />
              <TextField
                label={`Lowest amount of cost ${n}, if uncertain`}
                hideLabel
                placeholder="low"
                inputMode="decimal"
                value={cost.low}
                problem={at("low")}
                onChange={(low) => edit(cost.key, { low })}
              />
              <TextField
                label={`Highest amount of cost ${n}, if uncertain`}
                hideLabel
                placeholder="high"
                inputMode="decimal"
                value={cost.high}
                problem={at("high")}
                onChange={(high) => edit(cost.key, { high })}
              />
              {foreign && (
                <>
                  <span className="col-span-2 self-center text-right text-soft sm:col-span-2">
                    1 {cost.currency || "?"} is so many {machine.currency}:
                  </span>
                  <TextField
                    label={`Rate of exchange of cost ${n}`}
                    hideLabel
                    placeholder="rate"
                    inputMode="decimal"
                    value={cost.rate}
                    problem={at("rate")}
                    onChange={(rate) => edit(cost.key, { rate })}
                  />
                  <input
                    type="date"
                    aria-label={`Date of the rate of cost ${n}`}
                    className="field col-span-2"
                    value={cost.rateDate}
                    onChange={(event) => edit(cost.key, { rateDate: event.target.value })}
                  />
                </>
              )}
            </li>
          );
        })}
      </ul>
      <div className="mt-2 flex flex-wrap gap-x-5">
        {(["part", "shipping", "consumable", "labour", "resale"] as const).map((kind) => (
          <Button
            key={kind}
            look="quiet"
            onClick={() => onChange([...costs, emptyCost(kind, machine.currency)])}
          >
            + {kind}
          </Button>
        ))}
      </div>
    </fieldset>
  );
}
