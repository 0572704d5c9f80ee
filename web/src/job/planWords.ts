import type { PlanView } from "../api/client";

type Strength = PlanView["strengths"][number];

/** Minutes at the bench as they are said: "2 h 10 min". */
export function sayMinutes(minutes: number | null): string {
  if (minutes === null) return "not known yet";
  const whole = Math.round(minutes);
  const [hours, rest] = [Math.floor(whole / 60), whole % 60];
  if (!hours) return `${rest} min`;
  return rest ? `${hours} h ${rest} min` : `${hours} h`;
}

/** The strength that speaks for a plan: that of the headline, else of the first claim that has one. */
export const strongest = (view: PlanView, headline: string | null): Strength | undefined =>
  view.strengths.find((strength) => strength.measure === headline) ?? view.strengths[0];

/** What is said of the strength that speaks for a plan; undefined while it is not known. */
export function wordedOf(view: PlanView, headline: string | null): PlanView["worded"][string] | undefined {
  const strength = strongest(view, headline);
  return strength && view.worded[strength.measure];
}
