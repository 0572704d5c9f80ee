import type { Measure, PlanView } from "../../api/client";
import { formatNumber } from "../../lib/format";

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

/** What a plan with two looks finds, and when; nothing of a plan with one. */
export function sayTwoLooks(strength: Strength, measures: Measure[], second: number | null): string | null {
  if (second === null) return null;
  const gain = sayStrength(strength, measures, strength.detectable);
  const first = formatNumber(100 * (strength.after_first / 0.8), 0);
  return `A gain from ${gain} on is found in 8 of 10 jobs: ${first} of 100 of those after ${strength.sittings_a_side} sittings a side, the rest after up to ${second}.`;
}

/** A detectable difference in its measure's unit: "2.1 %". */
export function sayStrength(strength: Strength, measures: Measure[], value: number): string {
  const measure = measures.find((known) => known.id === strength.measure);
  const unit = measure?.difference_display ?? "%";
  return `${formatNumber(value, value < 10 ? 1 : 0)} ${unit}`;
}
