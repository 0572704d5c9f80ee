/** The words of ours, each in one sentence of the trade. */
export const TERMS = {
  sitting:
    "One unbroken stretch at the bench with one build: a restart or a new day begins another, and chance is judged from sitting to sitting.",
  claim:
    "A measure that the change is judged by: it gets a verdict, and each further claim makes all of them stricter.",
  control: "A measure that the change can’t touch: if it moves all the same, the machine itself moved.",
  watch: "Looked at only: it gets an interval and never a verdict.",
  soak: "Minutes under load before the first reading, so that heat has settled.",
  look: "A time, named beforehand, at which the verdict is read; looking at other times needs a stricter rule.",
  "matters from":
    "The smallest change worth having, said before the swap: less than that counts as no change.",
  settled: "Shown to be a gain, a loss or no change; what is not settled may be any of them.",
  "paired by": "By which rule a run before is set beside a run after; it never sees the readings.",
  headline: "The one claim that the change is judged by first: it is tested alone, the others together.",
} as const;

export type TermName = keyof typeof TERMS;
