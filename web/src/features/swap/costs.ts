import type { CostKind, CostLine, Job, Machine, Swap } from "../../api/client";
import { newId } from "../../lib/ids";
import { readMoney, writeMoney } from "../../lib/money";
import type { DecimalMark } from "../../lib/number";

type BenchTime = Job["plan"]["time"];
type Running = NonNullable<CostLine["running"]>;

/** A cost line as it is typed; what has no place in the row stands beneath it. */
export interface CostDraft {
  key: string;
  kind: CostKind;
  label: string;
  amount: string;
  low: string;
  high: string;
  currency: string;
  rate: string;
  rateDate: string;
  quantity: string;
  unit: string;
  basis: NonNullable<CostLine["basis"]> | "";
  worth: string;
  supplier: string;
  on: string;
  /** Electricity: how its hours or jobs are counted; empty where a line is an amount of its own. */
  by: Running["by"] | "";
  aDay: string;
  daysAYear: string;
  before: string;
  after: string;
  /** Measures that the power, and the time of a job, are taken from. */
  power: string;
  time: string;
  split: NonNullable<CostLine["split_by"]> | "";
  shares: Record<string, string>;
}

/** What is counted in hours, so that its amount is the rate of one. */
const HOURLY = new Set<CostKind>(["labour", "waiting", "rework", "measuring"]);

export const isHourly = (kind: CostKind): boolean => HOURLY.has(kind);

export const emptyCost = (kind: CostKind, currency: string, hourRate = ""): CostDraft => ({
  key: newId(),
  kind,
  label: "",
  amount: isHourly(kind) ? hourRate : "",
  low: "",
  high: "",
  currency,
  rate: "",
  rateDate: "",
  quantity: "",
  unit: isHourly(kind) ? "h" : kind === "downtime" ? "days" : "",
  basis: "",
  worth: "",
  supplier: "",
  on: "",
  by: kind === "electricity" ? "hours" : "",
  aDay: "",
  daysAYear: "250",
  before: "",
  after: "",
  power: "",
  time: "",
  split: "",
  shares: {},
});

export const costDrafts = (swap: Swap, mark: DecimalMark): CostDraft[] =>
  swap.costs.map((line) => ({
    key: newId(),
    kind: line.kind,
    label: line.label,
    amount: writeMoney(line.amount, mark),
    low: writeMoney(line.low, mark),
    high: writeMoney(line.high, mark),
    currency: line.currency,
    rate: writeMoney(line.rate, mark),
    rateDate: line.rate_date ?? "",
    quantity: writeMoney(line.quantity, mark),
    unit: line.unit,
    basis: line.basis ?? "",
    worth: writeMoney(line.worth, mark),
    supplier: line.supplier,
    on: line.on ?? "",
    ...runningDraft(line.running, mark),
    split: line.split_by ?? "",
    shares: Object.fromEntries(
      Object.entries(line.shares).map(([id, weight]) => [id, writeMoney(weight, mark)]),
    ),
  }));

type RunningDraft = Pick<CostDraft, "by" | "aDay" | "daysAYear" | "before" | "after" | "power" | "time">;

/** How a cost that runs on is reckoned. */
const runningDraft = (running: CostLine["running"], mark: DecimalMark): RunningDraft => ({
  by: running?.by ?? "",
  aDay: writeFloat(running?.a_day, mark),
  daysAYear: writeFloat(running?.days_a_year, mark) || "250",
  before: writeFloat(running?.before, mark),
  after: writeFloat(running?.after, mark),
  power: running?.power ?? "",
  time: running?.time ?? "",
});

const writeFloat = (value: number | null | undefined, mark: DecimalMark): string =>
  value == null ? "" : String(value).replace(".", mark);

const isTyped = (draft: CostDraft): boolean =>
  draft.label.trim() !== "" ||
  (draft.amount.trim() !== "" && (!isHourly(draft.kind) || draft.quantity.trim() !== ""));

/** Cost lines worth sending; an untouched line is none. What can't be read is sent as typed, for the server to name. */
export function costBody(drafts: CostDraft[], mark: DecimalMark): CostLine[] {
  const money = (text: string) => (text.trim() ? readMoney(text, mark) : null);
  return sentCosts(drafts).map((draft) => ({
    kind: draft.kind,
    label: draft.label.trim() || draft.kind,
    amount: readMoney(draft.amount, mark) || (UNPAID.has(draft.basis) ? "0.00" : ""),
    currency: draft.currency.trim().toUpperCase(),
    low: money(draft.low),
    high: money(draft.high),
    rate: money(draft.rate),
    rate_date: draft.rateDate || null,
    quantity: money(draft.quantity),
    unit: draft.quantity.trim() ? draft.unit.trim() : "",
    basis: draft.basis || null,
    worth: UNPAID.has(draft.basis) ? money(draft.worth) : null,
    supplier: draft.supplier.trim(),
    on: draft.on || null,
    running: draft.kind === "electricity" && draft.by ? runningBody(draft, mark) : null,
    split_by: draft.split || null,
    shares: draft.split ? sharesBody(draft.shares, mark) : {},
  }));
}

/** Nothing is paid for these: what they are worth is asked instead. */
const UNPAID = new Set<CostDraft["basis"]>(["drawer", "gift"]);

export const isUnpaid = (draft: Pick<CostDraft, "basis">): boolean => UNPAID.has(draft.basis);

function runningBody(draft: CostDraft, mark: DecimalMark): Running {
  // A number that can't be read goes as it was typed: the server refuses it by the name of its field.
  const number = (text: string) => {
    const read = readMoney(text, mark);
    return (read !== "" && Number.isFinite(Number(read)) ? Number(read) : read) as number;
  };
  const measured = draft.power !== "";
  return {
    by: draft.by || "hours",
    a_day: number(draft.aDay),
    days_a_year: number(draft.daysAYear),
    before: measured || !draft.before.trim() ? null : number(draft.before),
    after: measured || !draft.after.trim() ? null : number(draft.after),
    power: draft.power || null,
    time: measured && draft.by === "tasks" ? draft.time || null : null,
  };
}

const sharesBody = (shares: Record<string, string>, mark: DecimalMark): Record<string, string> =>
  Object.fromEntries(
    Object.entries(shares)
      .filter(([, weight]) => weight.trim())
      .map(([id, weight]) => [id, readMoney(weight, mark)]),
  );

/** Which draft each sent cost line came from, so that a refusal finds its field. */
export const sentCosts = (drafts: CostDraft[]): CostDraft[] => drafts.filter(isTyped);

/** What the server calls a field of a draft; without a field, the line itself. */
export function costField(drafts: CostDraft[], key: string, field: string): string {
  const line = `costs.${sentCosts(drafts).findIndex((cost) => cost.key === key)}`;
  return field ? `${line}.${field}` : line;
}

/** A line that the record of the swap offers: rework, days out of use, hands and waiting. */
export interface Offer {
  text: string;
  draft: CostDraft;
}

const MINUTES_AN_HOUR = 60;
const MINUTE_MS = 60_000;
const DAY_MS = 86_400_000;

/** What the swap's own record knows of its cost and its account does not have yet. */
export function offersOf(
  swap: Swap,
  costs: CostDraft[],
  machine: Machine,
  aSide?: Pick<BenchTime, "at_hand_a_side" | "unattended_a_side">,
): Offer[] {
  const { currency, decimal_mark: mark } = machine;
  const rate = writeMoney(machine.labour_rate, mark);
  const number = (value: number, digits: number) =>
    Number(value.toFixed(digits)).toString().replace(".", mark);
  const offer = (kind: CostKind, text: string, label: string, quantity: number, digits = 4): Offer => ({
    text: `Take over ${text}`,
    draft: {
      ...(kind === "downtime" ? emptyCost(kind, currency) : emptyCost(kind, currency, rate)),
      label,
      quantity: number(quantity, digits),
    },
  });
  const minutes = (kind: CostKind, min: number, text: string, label: string): Offer[] =>
    min > 0 ? [offer(kind, `${number(min, 0)} min ${text}`, label, min / MINUTES_AN_HOUR)] : [];
  const openMs =
    swap.opened_at && swap.closed_at ? Date.parse(swap.closed_at) - Date.parse(swap.opened_at) : 0;
  const isDays = openMs >= DAY_MS;
  const openMin = !isDays && openMs >= MINUTE_MS ? openMs / MINUTE_MS : 0;
  const days = number(openMs / DAY_MS, 1);
  const rework = swap.starts.reduce((sum, start) => sum + (start.rework_min ?? 0), 0);
  const offers = [
    ...minutes("rework", rework, "of rework", "Rework until it started"),
    ...(isDays ? [offer("downtime", `${days} days out of use`, "Out of use", openMs / DAY_MS, 1)] : []),
    ...minutes("labour", openMin, "with the case open", "Labour"),
    ...minutes(
      "measuring",
      2 * (aSide?.at_hand_a_side ?? 0),
      "at hand for measuring",
      "Measuring both sides, as planned",
    ),
    // The other side was measured for another swap too, or never: hours of waiting are those of this one.
    ...minutes(
      "waiting",
      aSide?.unattended_a_side ?? 0,
      "of waiting while it measured",
      "Waiting while it measured, as planned",
    ),
  ];
  return offers.filter(({ draft }) => !costs.some(({ kind }) => kind === draft.kind));
}
