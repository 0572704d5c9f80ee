import type { Build, Case, CostKind, CostLine, Part, Swap, SwapIn } from "../../api/client";
import { newId } from "../../lib/ids";

export const SIDE_CHANGES = [
  "dust-out",
  "fresh paste",
  "new pads",
  "fan turned",
  "cables moved",
  "drive moved",
  "fresh system",
  "firmware defaults",
  "overclock",
] as const;

export const COST_KINDS = [
  ["part", "part"],
  ["shipping", "shipping"],
  ["tax", "tax"],
  ["consumable", "consumable"],
  ["tool", "tool"],
  ["labour", "labour"],
  ["downtime", "downtime"],
  ["electricity", "electricity"],
  ["resale", "resale, in"],
  ["reuse", "reuse, in"],
  ["other", "other"],
] as const satisfies readonly (readonly [CostKind, string])[];

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
}

/** A part of the build before: it stays, or comes out for another. */
export interface ExchangeDraft {
  part: Part;
  out: boolean;
  newId: string;
  label: string;
  noted: string;
}

export interface AddedDraft {
  id: string;
  role: Part["role"];
  label: string;
  noted: string;
}

export interface SwapDraft {
  id: string;
  after: string;
  label: string;
  afterLabel: string;
  exchanges: ExchangeDraft[];
  added: AddedDraft[];
  settings: { name: string; value: string }[];
  sideChanges: string[];
  costs: CostDraft[];
}

export const emptyCost = (kind: CostKind, currency: string): CostDraft => ({
  key: newId(),
  kind,
  label: "",
  amount: "",
  low: "",
  high: "",
  currency,
  rate: "",
  rateDate: "",
});

export const newSwap = (build: Build, currency: string): SwapDraft => ({
  id: newId(),
  after: newId(),
  label: "",
  afterLabel: "",
  exchanges: build.parts.map((part) => ({ part, out: false, newId: newId(), label: "", noted: "" })),
  added: [],
  settings: Object.entries(build.settings).map(([name, value]) => ({ name, value: String(value) })),
  sideChanges: [],
  costs: [emptyCost("part", currency)],
});

export const costDrafts = (swap: Swap): CostDraft[] =>
  swap.costs.map((line) => ({
    key: newId(),
    kind: line.kind,
    label: line.label,
    amount: line.amount,
    low: line.low ?? "",
    high: line.high ?? "",
    currency: line.currency,
    rate: line.rate ?? "",
    rateDate: line.rate_date ?? "",
  }));

/** Money as it is sent: a decimal point, no thousands. What is no amount stays as typed, for the server to name. */
export function readMoney(text: string, mark: "." | ","): string {
  const plain = text.trim().replace("−", "-");
  return mark === ","
    ? plain.replace(/\.(?=\d{3}(\D|$))/g, "").replace(",", ".")
    : plain.replace(/,(?=\d{3}(\D|$))/g, "");
}

/** Cost lines worth sending; an untouched empty line is none. */
export function costBody(drafts: CostDraft[], mark: "." | ","): CostLine[] {
  return drafts
    .filter((draft) => draft.label.trim() || draft.amount.trim())
    .map((draft) => ({
      kind: draft.kind,
      label: draft.label.trim() || draft.kind,
      amount: readMoney(draft.amount, mark),
      currency: draft.currency.trim().toUpperCase(),
      low: draft.low.trim() ? readMoney(draft.low, mark) : null,
      high: draft.high.trim() ? readMoney(draft.high, mark) : null,
      rate: draft.rate.trim() ? readMoney(draft.rate, mark) : null,
      rate_date: draft.rateDate || null,
    }));
}

/** Which draft each sent cost line came from, so that a refusal finds its field. */
export const sentCosts = (drafts: CostDraft[]): CostDraft[] =>
  drafts.filter((draft) => draft.label.trim() || draft.amount.trim());

const rated = (noted: string): Part["rated"] => (noted.trim() ? { noted: noted.trim() } : {});

/** The parts of the build after: those that stay, those that replace, those that are added. */
export function partsAfter(draft: SwapDraft): Part[] {
  const kept = draft.exchanges.flatMap(({ part, out, newId: id, label, noted }): Part[] => {
    if (!out) return [part];
    return label.trim() ? [{ id, role: part.role, label: label.trim(), rated: rated(noted) }] : [];
  });
  const added = draft.added
    .filter((part) => part.label.trim())
    .map(({ id, role, label, noted }): Part => ({ id, role, label: label.trim(), rated: rated(noted) }));
  return [...kept, ...added];
}

export function swapBody(draft: SwapDraft, before: Build, mark: "." | ","): SwapIn {
  const settings = Object.fromEntries(
    draft.settings
      .filter((setting) => setting.name.trim() && setting.value.trim())
      .map(({ name, value }) => [name.trim(), /^\d{1,9}$/.test(value.trim()) ? Number(value) : value.trim()]),
  );
  return {
    before: before.id,
    after: draft.after,
    label: draft.label.trim() || suggestLabel(draft),
    side_changes: draft.sideChanges,
    costs: costBody(draft.costs, mark),
    after_build: {
      label: draft.afterLabel.trim() || suggestLabel(draft),
      parts: partsAfter(draft),
      settings,
    },
  };
}

/** A name for the swap from what goes in, until the technician gives it one. */
export function suggestLabel(draft: SwapDraft): string {
  const into = [...draft.exchanges.filter((e) => e.out), ...draft.added]
    .map((part) => part.label.trim())
    .filter(Boolean);
  return into[0] ?? draft.sideChanges[0] ?? "Settings changed";
}

/** What the swap changes, as the page's first sentence. */
export function sayChanges(draft: SwapDraft, before: Build): string {
  const exchanged = draft.exchanges.filter((exchange) => exchange.out).map((exchange) => exchange.part.role);
  const added = draft.added.filter((part) => part.label.trim()).map((part) => part.role);
  const settings = draft.settings.filter(
    ({ name, value }) => String(before.settings[name] ?? "") !== value.trim(),
  ).length;
  const many = exchanged.length + added.length + draft.sideChanges.length + (settings ? 1 : 0);
  if (many === 0) return `From build ${before.letter}: nothing changes yet. What comes out, what goes in?`;
  const list = [
    ...exchanged,
    ...added.map((role) => `added ${role}`),
    ...(settings ? ["settings"] : []),
    ...draft.sideChanges,
  ];
  const bundle =
    many > 1 ? " Changed together, they can't be told apart: the verdict will belong to the bundle." : "";
  return `From build ${before.letter}: ${list.join(", ")}.${bundle}`;
}

/** The newest build may be swapped on once it has runs; before that, its own swap is still open. */
export const canSwap = (job: Case): boolean => job.builds.at(-1)?.sealed ?? false;
