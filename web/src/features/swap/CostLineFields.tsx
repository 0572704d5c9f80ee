import type { Case, CostKind } from "../../api/client";
import { bind } from "../../lib/bind";
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
export function CostLineFields(props: Props) {
  const { job, cost, n, onChange, problemAt } = props;
  const foreign = cost.currency.trim().toUpperCase() !== job.machine.currency;
  return (
    <li className="space-y-2 border-b border-line pb-3 last:border-0">
      <Row {...props} />
      {foreign && <Exchanged {...props} />}
      {problemAt("") && (
        <p role="alert" className="font-medium text-warn">
          {problemAt("")}
        </p>
      )}
      {isRunning(cost) && <Running {...{ job, cost, n, onChange, problemAt }} />}
      <More {...props} />
    </li>
  );
}

const isRunning = (cost: CostDraft): boolean => cost.kind === "electricity" && cost.by !== "";

function Row({ cost, n, onChange, onRemove, problemAt }: Props) {
  const { cost_kinds: names } = useVocabulary();
  const kinds = (Object.keys(names) as CostKind[]).map(
    (kind) => [kind, INCOME.has(kind) ? `${names[kind] ?? kind}, in` : (names[kind] ?? kind)] as const,
  );
  const hours = isHourly(cost.kind);
  const runs = isRunning(cost);
  const field = bind(cost, onChange, problemAt);
  return (
    <div className="grid grid-cols-2 gap-2 sm:grid-cols-[9.5rem_1fr_7rem_7rem_5rem_auto]">
      <ChoiceField
        label={`Kind of cost ${n}`}
        hideLabel
        value={cost.kind}
        choices={kinds}
        onChange={(kind) => onChange(kindChosen(cost, kind))}
      />
      <TextField label={`What cost ${n} is for`} hideLabel placeholder="what for" {...field("label")} />
      {runs ? (
        <span className="self-center text-right text-soft">a kWh at</span>
      ) : (
        <TextField
          label={`${hours ? "Hours" : "How many, or which share,"} of cost ${n}`}
          hideLabel
          placeholder={hours ? "hours" : "× 1"}
          inputMode="decimal"
          {...field("quantity")}
        />
      )}
      <TextField
        label={runs ? `Price of a kWh of cost ${n}` : `Amount of cost ${n}`}
        hideLabel
        placeholder={runs ? "a kWh" : hours ? "an hour" : "amount"}
        inputMode="decimal"
        {...field("amount")}
      />
      <TextField label={`Currency of cost ${n}`} hideLabel maxLength={3} {...field("currency")} />
      <Button look="quiet" className="min-w-11" aria-label={`Take cost ${n} out`} onClick={onRemove}>
        ✕
      </Button>
    </div>
  );
}

/** What one of a foreign currency is in the machine's own, and from which day. */
function Exchanged({ job, cost, n, onChange, problemAt }: Props) {
  const field = bind(cost, onChange, problemAt);
  return (
    <div className="grid gap-2 sm:grid-cols-[1fr_7rem_11rem]">
      <span className="self-center text-right text-soft">
        1 {cost.currency || "?"} is so many {job.machine.currency}:
      </span>
      <TextField
        label={`Rate of exchange of cost ${n}`}
        hideLabel
        placeholder="rate"
        inputMode="decimal"
        {...field("rate")}
      />
      <DateField label={`Date of the rate of cost ${n}`} hideLabel {...field("rateDate")} />
    </div>
  );
}

/** Another kind keeps what was typed, but for what only the old kind means. */
function kindChosen(cost: CostDraft, kind: CostKind): Partial<CostDraft> {
  const unit = isHourly(kind) ? "h" : isHourly(cost.kind) ? "" : cost.unit;
  return { kind, unit, by: kind === "electricity" ? cost.by || "hours" : "" };
}

/** What bears on a line beside its amount: open where something of it is filled in, or asks to be. */
function More({ job, swapId, cost, n, onChange, problemAt }: Props) {
  const isIncome = INCOME.has(cost.kind);
  const fields = [cost.low, cost.high, cost.basis, cost.supplier, cost.on, cost.split, cost.worth];
  const names = ["low", "high", "unit", "worth", "supplier", "shares", "basis"];
  const isOpen = fields.some(Boolean) || cost.kind === "resale" || names.some((name) => problemAt(name));
  const field = bind(cost, onChange, problemAt);
  return (
    <details open={isOpen}>
      <summary className="flex min-h-11 cursor-pointer items-center text-soft underline underline-offset-4">
        {isIncome
          ? "How sure, and received when"
          : "How sure, what the price is, who supplied it, shared with"}
      </summary>
      <div className="mt-2 grid grid-cols-2 gap-2 sm:grid-cols-4">
        <TextField label={`Lowest amount of cost ${n}`} inputMode="decimal" {...field("low")} />
        <TextField label={`Highest amount of cost ${n}`} inputMode="decimal" {...field("high")} />
        {cost.quantity.trim() !== "" && (
          <TextField label={`One of cost ${n} is`} placeholder="of a tube, a use, h" {...field("unit")} />
        )}
        <DateField label={isIncome ? `Received on, cost ${n}` : `Dated, cost ${n}`} {...field("on")} />
        {!isIncome && !isHourly(cost.kind) && <Source {...{ cost, n, onChange, problemAt }} />}
        {isUnpaid(cost) && (
          <TextField
            label={cost.basis === "gift" ? `In a shop, cost ${n}` : `Worth, cost ${n}`}
            inputMode="decimal"
            hint="nothing is paid; this is shown beside it"
            {...field("worth")}
          />
        )}
      </div>
      <SplitFields {...{ job, swapId, cost, n, onChange }} problem={problemAt("shares")} />
    </details>
  );
}

/** What the price is, and who supplied it. */
function Source({ cost, n, onChange, problemAt }: Pick<Props, "cost" | "n" | "onChange" | "problemAt">) {
  const bases = Object.entries(useVocabulary().bases).map(
    ([basis, name]) => [basis as CostDraft["basis"], name] as const,
  );
  return (
    <>
      <ChoiceField
        label={`Price of cost ${n} is`}
        value={cost.basis}
        choices={[["", "not said"] as const, ...bases]}
        onChange={(basis) => onChange({ basis })}
      />
      <TextField
        label={`Supplied by, cost ${n}`}
        value={cost.supplier}
        problem={problemAt("supplier")}
        onChange={(supplier) => onChange({ supplier })}
      />
    </>
  );
}
