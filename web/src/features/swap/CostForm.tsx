import { type Case, type CostKind } from "../../api/client";
import { writeMoney } from "../../lib/money";
import { Button } from "../../ui/Button";
import { useVocabulary } from "../../job/vocabulary";
import { CostLineFields } from "./CostLineFields";
import { type CostDraft, emptyCost } from "./costs";

interface Props {
  job: Case;
  /** The swap that the lines belong to. */
  swapId: string;
  costs: CostDraft[];
  onChange: (costs: CostDraft[]) => void;
  /** What the server said of a field of a line. */
  problemAt: (key: string, field: string) => string | undefined;
}

const FIRST: CostKind[] = ["part", "shipping", "consumable", "tool", "labour", "resale", "electricity"];

/** Cost lines as they arise. Amounts are positive; resale and parts used on come in. */
export function CostForm({ job, swapId, costs, onChange, problemAt }: Props) {
  const { currency, labour_rate: rate, decimal_mark: mark } = job.machine;
  const names = useVocabulary().cost_kinds;
  const edit = (key: string, change: Partial<CostDraft>) =>
    onChange(costs.map((cost) => (cost.key === key ? { ...cost, ...change } : cost)));
  return (
    <fieldset className="card">
      <legend className="eyebrow px-1">Cost lines</legend>
      <ul className="space-y-3">
        {costs.map((cost, index) => (
          <CostLineFields
            key={cost.key}
            job={job}
            swapId={swapId}
            cost={cost}
            n={index + 1}
            onChange={(change) => edit(cost.key, change)}
            onRemove={() => onChange(costs.filter((other) => other.key !== cost.key))}
            problemAt={(field) => problemAt(cost.key, field)}
          />
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap gap-x-5">
        {FIRST.map((kind) => (
          <Button
            key={kind}
            look="quiet"
            onClick={() => onChange([...costs, emptyCost(kind, currency, writeMoney(rate, mark))])}
          >
            + {names[kind]}
          </Button>
        ))}
      </div>
    </fieldset>
  );
}
