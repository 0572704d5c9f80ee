import type { Build, Candidate, Case, Part, Plan, Swap, SwapIn, Vocabulary } from "../../api/client";
import { newId } from "../../lib/ids";
import { writeMoney } from "../../lib/money";
import { type DecimalMark, writeValue } from "../../lib/number";
import { PART_ROLES } from "../../job/model";
import { writeFigures } from "../../job/figures";
import { type PartDraft, partsOf, type SettingDraft, settingDrafts, valuesOf } from "../../job/parts";
import { costBody, type CostDraft, emptyCost } from "./costs";

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
  "new firmware on the part",
  "new drivers",
  "upkeep switched on",
] as const;

/** Ticked where nobody changed anything and the machine was worn in use: a step of its own. */
export const TIME_PASSED = "time passed";

/** What a swap is called on its way, by whether the machine is opened for it. */
export const wordsOf = ({ opens }: Pick<Swap, "opens">) =>
  opens
    ? {
        begin: "Open the case",
        missing: "Before the old part leaves, this is still missing:",
        ready: "The old part may leave.",
        underWay: "The case is open",
        close: "Close the case, and measure",
        reopen: "Open the case again",
        unopen: "Nothing was changed: back to the plan",
      }
    : {
        begin: "Make the change",
        missing: "Before the change, this is still missing:",
        ready: "The change can be made.",
        underWay: "The change is being made",
        close: "It is made: measure",
        reopen: "Go back to the change",
        unopen: "Nothing was changed: back to the plan",
      };

/** A part of the build before: it stays, or comes out for another. */
export interface ExchangeDraft {
  part: Part;
  out: boolean;
  newId: string;
  label: string;
  figures: string;
}

export interface SwapDraft {
  id: string;
  after: string;
  label: string;
  afterLabel: string;
  /** How worn the build after is; empty where that is not said. */
  wear: "" | NonNullable<Build["wear"]>;
  exchanges: ExchangeDraft[];
  added: PartDraft[];
  settings: SettingDraft[];
  sideChanges: string[];
  costs: CostDraft[];
  /** An earlier build that it goes back to; empty where it makes a new one. */
  backTo: string;
}

/** The swap that a plan was made for: the part of that kind comes out, or one is added where none is described. */
export function newSwap(
  build: Build,
  currency: string,
  mark: DecimalMark,
  change: Plan["change"] = null,
): SwapDraft {
  // Of the parts that are none of the usual ones it can't be told which is meant.
  const role = PART_ROLES.find((known) => known === change && known !== "other");
  const parts = build.parts.filter((part) => part.role === role);
  const [only] = parts.length === 1 ? parts : [];
  return {
    id: newId(),
    after: newId(),
    label: "",
    afterLabel: "",
    wear: "",
    exchanges: build.parts.map((part) => ({
      part,
      out: part === only,
      newId: newId(),
      label: "",
      figures: "",
    })),
    added: role && parts.length === 0 ? [{ id: newId(), role, label: "", figures: "" }] : [],
    settings: settingDrafts(build.settings, mark),
    sideChanges: change === "cleaning" ? ["dust-out"] : [],
    costs: [emptyCost("part", currency)],
    backTo: "",
  };
}

/** A swap that is compared with an earlier build keeps what is fitted now: what differs is what went in since. */
export function branchFrom(
  before: Build,
  fitted: Build,
  currency: string,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): SwapDraft {
  const draft = newSwap(before, currency, mark);
  const into = fitted.parts.filter((part) => !before.parts.some(({ id }) => id === part.id));
  const figures = (part: Part) => writeFigures(part.rated, vocabulary.parts[part.role] ?? [], mark);
  const taken = new Set<string>();
  const exchanges = draft.exchanges.map((exchange) => {
    if (fitted.parts.some(({ id }) => id === exchange.part.id)) return exchange;
    const successor = into.find(({ id, role }) => role === exchange.part.role && !taken.has(id));
    if (!successor) return { ...exchange, out: true };
    taken.add(successor.id);
    return {
      ...exchange,
      out: true,
      newId: successor.id,
      label: successor.label,
      figures: figures(successor),
    };
  });
  return {
    ...draft,
    exchanges,
    added: into
      .filter(({ id }) => !taken.has(id))
      .map((part) => ({ id: part.id, role: part.role, label: part.label, figures: figures(part) })),
    settings: settingDrafts(fitted.settings, mark),
  };
}

/** The swap that fits a candidate: the part of its kind comes out where there is one alone, its price is the cost. */
export function fitCandidate(
  draft: SwapDraft,
  candidate: Candidate,
  figures: string,
  mark: DecimalMark,
): SwapDraft {
  const alike = draft.exchanges.filter(({ part }) => part.role === candidate.role);
  const [only] = alike.length === 1 ? alike : [];
  const [cost] = draft.costs;
  const part = { role: candidate.role, label: candidate.label, figures };
  return {
    ...draft,
    exchanges: draft.exchanges.map((exchange) =>
      exchange === only
        ? { ...exchange, out: true, label: candidate.label, figures }
        : { ...exchange, out: false },
    ),
    added: only ? [] : [{ id: newId(), ...part }],
    costs: cost
      ? [
          {
            ...cost,
            label: candidate.label,
            amount: writeMoney(candidate.price, mark),
            low: writeMoney(candidate.price_low, mark),
            high: writeMoney(candidate.price_high, mark),
            basis: candidate.basis ?? "",
          },
        ]
      : [],
  };
}

const FRESH_TICK = "fresh paste";

/** The parts of the build after: those that stay, those that replace, those that are added. */
export function partsAfter(draft: SwapDraft, vocabulary: Vocabulary, mark: DecimalMark): Part[] {
  const kept = draft.exchanges.flatMap(({ part, out, newId: id, label, figures }): Part[] =>
    out
      ? partsOf(
          [{ id, role: part.role, label: label.trim() || unnamed(part, vocabulary), figures }],
          vocabulary,
          mark,
        )
      : [part],
  );
  return [...kept, ...partsOf(draft.added, vocabulary, mark)];
}

/** What goes in for a part where nothing is named: fresh paste for paste, nothing for the rest. */
export const unnamed = ({ role }: Pick<Part, "role">, vocabulary: Vocabulary): string =>
  role === "thermal paste" ? vocabulary.fresh_paste : "";

/** Keys of the differences that the draft makes on purpose: what it does not name here is questioned later. */
export function declaresOf(draft: SwapDraft, before: Build, mark: DecimalMark): string[] {
  const roles = [
    ...draft.exchanges.filter((exchange) => exchange.out).map((exchange) => exchange.part.role),
    ...draft.added.filter((part) => part.label.trim()).map((part) => part.role),
  ];
  const names = changedSettings(draft, before, mark);
  return [...new Set([...roles.map((role) => `part:${role}`), ...names.map((name) => `setting:${name}`)])];
}

function changedSettings(draft: SwapDraft, before: Build, mark: DecimalMark): string[] {
  const now = new Map(draft.settings.map(({ name, value }) => [name.trim(), value.trim()]));
  const names = new Set([...now.keys(), ...Object.keys(before.settings)]);
  return [...names].filter(
    (name) => name && writeValue(before.settings[name], mark) !== (now.get(name) ?? ""),
  );
}

export function swapBody(draft: SwapDraft, before: Build, mark: DecimalMark, vocabulary: Vocabulary): SwapIn {
  const common = {
    before: before.id,
    label: draft.label.trim() || suggestLabel(draft),
    side_changes: draft.sideChanges,
    costs: costBody(draft.costs, mark),
  };
  if (draft.backTo) return { ...common, after: draft.backTo, declares: [] };
  return {
    ...common,
    after: draft.after,
    declares: declaresOf(draft, before, mark),
    after_build: {
      label: draft.afterLabel.trim() || suggestLabel(draft),
      parts: partsAfter(draft, vocabulary, mark),
      settings: valuesOf(draft.settings, vocabulary.settings, mark),
      wear: draft.wear || null,
    },
  };
}

/**
 * Where time alone has passed, the build after is the same one, worn; fresh paste takes the old one out, where there is
 * one alone.
 */
export const tickSides = (draft: SwapDraft, sideChanges: string[]): SwapDraft => ({
  ...draft,
  sideChanges,
  exchanges:
    sideChanges.includes(FRESH_TICK) === draft.sideChanges.includes(FRESH_TICK)
      ? draft.exchanges
      : withPaste(draft.exchanges, sideChanges.includes(FRESH_TICK)),
  wear:
    sideChanges.includes(TIME_PASSED) && !draft.sideChanges.includes(TIME_PASSED) && !draft.wear
      ? "worn"
      : draft.wear,
});

function withPaste(exchanges: ExchangeDraft[], isFresh: boolean): ExchangeDraft[] {
  const pastes = exchanges.filter(({ part }) => part.role === "thermal paste");
  if (pastes.length !== 1) return exchanges;
  return exchanges.map((exchange) =>
    exchange === pastes[0] && (isFresh || !exchange.label.trim()) ? { ...exchange, out: isFresh } : exchange,
  );
}

/** A swap as it stands, as it is sent: an edit lays its own fields over it. */
export function recordedBody(swap: Swap): SwapIn {
  const { before, after, label, side_changes, costs, declares, version } = swap;
  return { before, after, label, side_changes, costs, declares, version };
}

/** A name for the swap from what goes in, until the technician gives it one. */
export function suggestLabel(draft: SwapDraft): string {
  if (draft.backTo) return "Back to an earlier build";
  const into = [...draft.exchanges.filter((e) => e.out), ...draft.added]
    .map((part) => part.label.trim())
    .filter(Boolean);
  const [gone] = draft.exchanges.filter(({ out, part }) => out && part.role !== "thermal paste");
  const without = gone && `Without the ${gone.part.role}`;
  return into[0] ?? without ?? draft.sideChanges[0] ?? "Settings changed";
}

/** What the swap changes, as the page's first sentence. */
export function sayChanges(draft: SwapDraft, before: Build, mark: DecimalMark): string {
  if (draft.backTo) return `From build ${before.letter} back to an earlier one.`;
  const out = draft.exchanges.filter((exchange) => exchange.out);
  const exchanged = out.map((exchange) => exchange.part.role);
  const added = draft.added.filter((part) => part.label.trim()).map((part) => part.role);
  const settings = changedSettings(draft, before, mark).length;
  // The tick for fresh paste and the paste that goes in say the same thing.
  const sides = draft.sideChanges.filter(
    (tick) => tick !== FRESH_TICK || ![...exchanged, ...added].includes("thermal paste"),
  );
  const many = exchanged.length + added.length + sides.length + (settings ? 1 : 0);
  if (many === 0) return `From build ${before.letter}: nothing changes yet. What comes out, what goes in?`;
  const list = [
    ...out.map(({ part, label }) =>
      label.trim() || part.role === "thermal paste" ? part.role : `${part.role} out, none in`,
    ),
    ...added.map((role) => `added ${role}`),
    ...(settings ? ["settings"] : []),
    ...sides,
  ];
  const bundle =
    many > 1 ? " Changed together, they can't be told apart: the verdict will belong to the bundle." : "";
  return `From build ${before.letter}: ${list.join(", ")}.${bundle}`;
}

/** The parts that came out at a swap. */
export function partsOut(job: Pick<Case, "builds">, swap: Pick<Swap, "before" | "after">): Part[] {
  const parts = (id: string) => job.builds.find((build) => build.id === id)?.parts ?? [];
  const kept = new Set(parts(swap.after).map((part) => part.id));
  return parts(swap.before).filter((part) => !kept.has(part.id));
}

/** A swap starts from a build that was measured. */
export const canSwap = (job: Case): boolean =>
  job.builds.find((build) => build.id === job.fitted)?.sealed ?? false;

/** What may still be taken apart: nothing was measured on it, and the case is not closed. */
export function canSplit(job: Case, swap: Swap, changes: number): boolean {
  const after = job.builds.find((build) => build.id === swap.after);
  return changes > 1 && swap.state !== "closed" && !after?.sealed;
}
