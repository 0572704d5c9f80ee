import type { RunState } from "../../../api/client";

/** What can become of a run that gives no figure; the key acts with Alt, in a field too. */
export const OUTCOMES: readonly { key: string; name: string; state: RunState; reason: string }[] = [
  { key: "h", name: "Hung", state: "failed", reason: "hung" },
  { key: "c", name: "Crashed", state: "failed", reason: "crashed" },
  { key: "s", name: "Safety stop", state: "failed", reason: "stopped for safety" },
  { key: "n", name: "Refused to start", state: "failed", reason: "refused to start" },
  { key: "b", name: "Broke off", state: "partial", reason: "broke off" },
  { key: "t", name: "Time limit", state: "partial", reason: "ended by its own time limit, work unfinished" },
];

export const outcomeOf = (key: string) => OUTCOMES.find((outcome) => outcome.key === key.toLowerCase());
