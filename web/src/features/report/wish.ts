import type { ReportIn, Swap } from "../../api/client";
import type { Form, PaperSize, Section } from "./model";

/** What the technician adds to a report, as it is typed. */
export interface WishDraft {
  form: Form;
  size: PaperSize;
  technician: string;
  advice: string;
  nextStep: string;
  /** Whether anything was changed after the last run; empty while it was not answered. */
  changed: "" | "no" | "yes";
  changedWhat: string;
  labour: boolean;
  years: string;
  without: Section[];
  /** Photos that stay out of it. */
  withoutPhotos: string[];
}

export const emptyWish: WishDraft = {
  form: "short",
  size: "A4",
  technician: "",
  advice: "",
  nextStep: "",
  changed: "",
  changedWhat: "",
  labour: true,
  years: "0",
  without: [],
  withoutPhotos: [],
};

export function wishBody(draft: WishDraft, swap: Pick<Swap, "before" | "after">): ReportIn {
  const years = Number(draft.years);
  return {
    before: swap.before,
    after: swap.after,
    form: draft.form,
    technician: draft.technician,
    advice: draft.advice,
    next_step: draft.nextStep,
    changed_since: changedSince(draft),
    labour: draft.labour,
    years: Number.isInteger(years) && years >= 0 && years <= 30 ? years : 0,
  };
}

/** Null while it is not known: a change that nobody names is none that can be reported. */
function changedSince({ changed, changedWhat }: WishDraft): string | null {
  if (changed === "no") return "";
  return changed === "yes" && changedWhat.trim() ? changedWhat.trim() : null;
}
