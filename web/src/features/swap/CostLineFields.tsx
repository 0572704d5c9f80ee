import type { Case, CostKind } from "../../api/client";
import { Button } from "../../ui/Button";
import { ChoiceField, DateField, TextField } from "../../ui/Field";
import { useVocabulary } from "../../job/vocabulary";
import { type CostDraft, isHourly, isUnpaid } from "./costs";
import { Running } from "./Running";
import { SplitFields } from "./SplitFields";

interface Props {
  job: Case;
  swapId: string;
  cost: CostDraft;
  /** Which line it is, from 1. */
  n: number;
  onChange: (change: Partial<CostDraft>) => void;
  onRemove: () => void;
  problemAt: (field: string) => string | undefined;
}

const INCOME = new Set<CostKind>(["resale", "reuse"]);

/** One cost line: what it is in a row, and beneath it what else bears on it. */
export function CostLineFields({ job, swapId, cost, n, onChange, onRemove, problemAt }: Props) {
  const { machine } = job;
  const { cost_kinds: names } = useVocabulary();
  const kinds = (Object.keys(names) as CostKind[]).map(
    (kind) => [kind, INCOME.has(kind) ? `${names[kind] ?? kind}, in` : (names[kind] ?? kind)] as const,
  );
  const foreign = cost.currency.trim().toUpperCase() !== machine.currency;
  const isRunning = cost.kind === "electricity" && cost.by !== "";
  return (
    <li className="space-y-2 border-b border-line pb-3 last:border-0">
      <div className="grid grid-cols-2 gap-2 sm:grid-cols-[9.5rem_1fr_7rem_7rem_5rem_auto]">
        <ChoiceField
          label={`Kind of cost ${n}`}
          hideLabel
          value={cost.kind}
          choices={kinds}
          onChange={(kind) => onChange(kindChosen(cost, kind))}
        />
        <TextField
          label={`What cost ${n} is for`}
          hideLabel
          placeholder="what for"
          value={cost.label}
          problem={problemAt("label")}
          onChange={(label) => onChange({ label })}
        />
        {isRunning ? (
          <span className="self-center text-right text-soft">a kWh at</span>
        ) : (
          <TextField
            label={`${isHourly(cost.kind) ? "Hours" : "How many, or which share,"} of cost ${n}`}
            hideLabel
            placeholder={isHourly(cost.kind) ? "hours" : "× 1"}
            inputMode="decimal"
            value={cost.quantity}
            problem={problemAt("quantity")}
            onChange={(quantity) => onChange({ quantity })}
          />
        )}
        <TextField
          label={isRunning ? `Price of a kWh of cost ${n}` : `Amount of cost ${n}`}
          hideLabel
          placeholder={isRunning ? "a kWh" : isHourly(cost.kind) ? "an hour" : "amount"}
          inputMode="decimal"
          value={cost.amount}
          problem={problemAt("amount")}
          onChange={(amount) => onChange({ amount })}
        />
        <TextField
          label={`Currency of cost ${n}`}
          hideLabel
          maxLength={3}
          value={cost.currency}
          problem={problemAt("currency")}
          onChange={(currency) => onChange({ currency })}
        />
        <Button look="quiet" className="min-w-11" aria-label={`Take cost ${n} out`} onClick={onRemove}>
          ✕
        </Button>
      </div>
      {foreign && (
        <div className="grid gap-2 sm:grid-cols-[1fr_7rem_11rem]">
          <span className="self-center text-right text-soft">
            1 {cost.currency || "?"} is so many {machine.currency}:
          </span>
          <TextField
            label={`Rate of exchange of cost ${n}`}
            hideLabel
            placeholder="rate"
            inputMode="decimal"
            value={cost.rate}
            problem={problemAt("rate")}
            onChange={(rate) => onChange({ rate })}
          />
          <DateField
            label={`Date of the rate of cost ${n}`}
            hideLabel
            value={cost.rateDate}
            onChange={(rateDate) => onChange({ rateDate })}
          />
        </div>
      )}
      {problemAt("") && (
        <p role="alert" className="font-medium text-warn">
          {problemAt("")}
        </p>
      )}
      {isRunning && <Running job={job} cost={cost} n={n} onChange={onChange} problemAt={problemAt} />}
      <More job={job} swapId={swapId} cost={cost} n={n} onChange={onChange} problemAt={problemAt} />
    </li>
  );
}

/** Another kind keeps what was typed, but for what only the old kind means. */
function kindChosen(cost: CostDraft, kind: CostKind): Partial<CostDraft> {
  const unit = isHourly(kind) ? "h" : isHourly(cost.kind) ? "" : cost.unit;
  return { kind, unit, by: kind === "electricity" ? cost.by || "hours" : "" };
}

/** What bears on a line beside its amount: open where something of it is filled in, or asks to be. */
function More({ job, swapId, cost, n, onChange, problemAt }: Omit<Props, "onRemove">) {
  const { bases } = useVocabulary();
  const isIncome = INCOME.has(cost.kind);
  const fields = [cost.low, cost.high, cost.basis, cost.supplier, cost.on, cost.split, cost.worth];
  const names = ["low", "high", "unit", "worth", "supplier", "shares", "basis"];
  const isOpen = fields.some(Boolean) || cost.kind === "resale" || names.some((name) => problemAt(name));
  return (
    <details open={isOpen}>
      <summary className="flex min-h-11 cursor-pointer items-center text-soft underline underline-offset-4">
        {isIncome
          ? "How sure, and received when"
          : "How sure, what the price is, who supplied it, shared with"}
      </summary>
      <div className="mt-2 grid grid-cols-2 gap-2 sm:grid-cols-4">
        <TextField
          label={`Lowest amount of cost ${n}`}
          inputMode="decimal"
          value={cost.low}
          problem={problemAt("low")}
          onChange={(low) => onChange({ low })}
        />
        <TextField
          label={`Highest amount of cost ${n}`}
          inputMode="decimal"
          value={cost.high}
          problem={problemAt("high")}
          onChange={(high) => onChange({ high })}
        />
        {cost.quantity.trim() !== "" && (
          <TextField
            label={`One of cost ${n} is`}
            placeholder="of a tube, a use, h"
            value={cost.unit}
            problem={problemAt("unit")}
            onChange={(unit) => onChange({ unit })}
          />
        )}
        <DateField
          label={isIncome ? `Received on, cost ${n}` : `Dated, cost ${n}`}
          value={cost.on}
          problem={problemAt("on")}
          onChange={(on) => onChange({ on })}
        />
        {!isIncome && !isHourly(cost.kind) && (
          <>
            <ChoiceField
              label={`Price of cost ${n} is`}
              value={cost.basis}
              choices={[
                ["", "not said"] as const,
                ...Object.entries(bases).map(([basis, name]) => [basis as CostDraft["basis"], name] as const),
              ]}
              onChange={(basis) => onChange({ basis })}
            />
            <TextField
              label={`Supplied by, cost ${n}`}
              value={cost.supplier}
              problem={problemAt("supplier")}
              onChange={(supplier) => onChange({ supplier })}
            />
          </>
        )}
        {isUnpaid(cost) && (
          <TextField
            label={cost.basis === "gift" ? `In a shop, cost ${n}` : `Worth, cost ${n}`}
            inputMode="decimal"
            hint="nothing is paid; this is shown beside it"
            value={cost.worth}
            problem={problemAt("worth")}
            onChange={(worth) => onChange({ worth })}
          />
        )}
      </div>
      <SplitFields
        job={job}
        swapId={swapId}
        cost={cost}
        n={n}
        onChange={onChange}
        problem={problemAt("shares")}
      />
    </details>
  );
}
