import type { RunState } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { OUTCOMES } from "./outcomes";

interface Props {
  /** What the run is called: "run 3". */
  name: string;
  onOutcome: (state: RunState, reason: string) => void;
  onMore: () => void;
}

/** What became of the next run where it gave no figure: one tap, or one key with Alt. */
export function Outcomes({ name: run, onOutcome, onMore }: Props) {
  return (
    <div role="group" aria-label={`What became of ${run}`} className="mt-3 flex flex-wrap gap-2">
      {OUTCOMES.map(({ key, name, state, reason }) => (
        <Button key={key} onClick={() => onOutcome(state, reason)}>
          {name} <kbd className="font-sans text-sm font-normal text-soft">Alt {key.toUpperCase()}</kbd>
        </Button>
      ))}
      <Button onClick={onMore}>Mark {run}…</Button>
    </div>
  );
}
