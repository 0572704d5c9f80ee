import type { Case } from "../../api/client";
import { Chips } from "../../ui/Chips";
import { ChoiceField, TextField } from "../../ui/Field";
import type { CostDraft } from "./costs";

interface Props {
  job: Case;
  swapId: string;
  cost: CostDraft;
  n: number;
  onChange: (change: Partial<CostDraft>) => void;
  problem: string | undefined;
}

const RULES = [
  ["", "this step alone"],
  ["even", "several steps, evenly"],
  ["by use", "several steps, by use"],
  ["by hand", "several steps, by hand"],
] as const;

/** Over which steps a cost is split, and by which rule; offered where there is another step. */
export function SplitFields({ job, swapId, cost, n, onChange, problem }: Props) {
  const known = job.swaps.some((swap) => swap.id === swapId);
  const steps = [...job.swaps, ...(known ? [] : [{ id: swapId, label: "This swap" }])];
  if (steps.length < 2) return null;
  const labels = distinct(steps);
  const ids = steps.map((step) => step.id);
  const chosen = steps.filter((step) => cost.shares[step.id]);
  const choose = (names: string[]) =>
    Object.fromEntries(
      steps.flatMap((step, i) =>
        names.includes(labels[i] ?? "") ? [[step.id, cost.shares[step.id] || "1"]] : [],
      ),
    );
  return (
    <div className="mt-2 space-y-2">
      <div className="w-60">
        <ChoiceField
          label={`Cost ${n} belongs to`}
          value={cost.split}
          choices={RULES}
          onChange={(split) => onChange({ split, shares: split ? evenly(cost.shares, split, ids) : {} })}
        />
      </div>
      {cost.split && (
        <Chips
          label={`Steps that share cost ${n}`}
          choices={labels}
          chosen={labels.filter((_, i) => chosen.includes(steps[i]!))}
          onChange={(names) => onChange({ shares: choose(names) })}
        />
      )}
      {cost.split && cost.split !== "even" && <Weights cost={cost} steps={chosen} onChange={onChange} />}
      {problem && (
        <p role="alert" className="font-medium text-warn">
          {problem}
        </p>
      )}
    </div>
  );
}

type WeightsProps = Pick<Props, "cost" | "onChange"> & { steps: { id: string; label: string }[] };

/** How much of it each step bears. */
function Weights({ cost, steps, onChange }: WeightsProps) {
  return (
    <div className="grid grid-cols-2 gap-2 sm:grid-cols-4">
      {steps.map((step) => (
        <TextField
          key={step.id}
          label={`${cost.split === "by use" ? "Uses in" : "Share of"} ${step.label}`}
          inputMode="decimal"
          value={cost.shares[step.id] ?? ""}
          onChange={(weight) => onChange({ shares: { ...cost.shares, [step.id]: weight } })}
        />
      ))}
    </div>
  );
}

/** Names to choose steps by: those that are called alike are numbered. */
function distinct(steps: { label: string }[]): string[] {
  return steps.map(({ label }, index) =>
    steps.some((other, i) => i !== index && other.label === label) ? `${index + 1} · ${label}` : label,
  );
}

const evenly = (shares: Record<string, string>, split: CostDraft["split"], all: string[]) =>
  split === "even" || Object.keys(shares).length === 0
    ? Object.fromEntries((Object.keys(shares).length ? Object.keys(shares) : all).map((id) => [id, "1"]))
    : shares;
